<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import HistogramBars from '@/charts/HistogramBars.vue'
import { count, exact, plain } from '@/app/format'

import type { Numeric } from '@/api/client'

const props = defineProps<{ numeric: Numeric; histogram: boolean }>()
const { t } = useI18n()
const facts = computed(() => {
  const n = props.numeric
  return [
    [t('topline.n'), count(n.n)],
    [t('topline.mean'), plain(n.mean)],
    [t('topline.sd'), n.sd === null ? '–' : plain(n.sd)],
    [t('topline.smallest'), exact(n.smallest)],
    [t('topline.quartile1'), plain(n.quartile1)],
    [t('topline.median'), plain(n.median)],
    [t('topline.quartile3'), plain(n.quartile3)],
    [t('topline.largest'), exact(n.largest)],
  ] as const
})
</script>

<template>
  <div class="numbers">
    <dl>
      <div v-for="[name, value] in facts" :key="name">
        <dt>{{ name }}</dt>
        <dd>{{ value }}</dd>
      </div>
    </dl>
    <HistogramBars v-if="histogram" :classes="numeric.classes" :label="t('topline.histogram')" />
  </div>
</template>

<style scoped>
.numbers { margin: 8px 0 4px; }
dl { display: flex; flex-wrap: wrap; gap: 6px 26px; border-top: 1px solid var(--rule); padding-top: 8px; margin-bottom: 8px; }
dt { font-size: 13px; color: var(--soft); }
dd { margin: 0; font-weight: 600; }
</style>

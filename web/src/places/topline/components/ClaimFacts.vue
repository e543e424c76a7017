<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { count, fixed } from '@/parts/format'

import type { GoodnessOfFit } from '@/api/client'

const props = defineProps<{ result: GoodnessOfFit; levelText: string }>()
const { t } = useI18n()
const facts = computed(() => {
  const r = props.result
  const thinnest = fixed(r.smallestExpected, 1)
  return [
    { name: t('claim.statistic'), value: `χ² = ${fixed(r.statistic, 3)}`, test: 'statistic' },
    { name: t('claim.df'), value: `${r.answers} − 1 = ${r.df}`, test: 'df' },
    { name: t('claim.p'), value: r.p.exact, test: 'p' },
    { name: t('claim.critical', { level: props.levelText }), value: fixed(r.criticalValue, 3), test: 'critical' },
    { name: t('claim.w'), value: fixed(r.cohensW, 3), test: 'w' },
    { name: t('claim.thin'), value: r.thinCells === 0 ? t('claim.thin_none', { thinnest }) : t('claim.thin_some', { n: count(r.thinCells), of: count(r.answers), thinnest }), test: 'thin' },
  ]
})
</script>

<template>
  <dl class="facts">
    <div v-for="f in facts" :key="f.test">
      <dt>{{ f.name }}</dt>
      <dd :data-test="f.test">{{ f.value }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.facts { display: flex; flex-wrap: wrap; gap: 8px 26px; margin: 6px 0 2px; }
dt { color: var(--soft); font-size: 13px; }
dd { margin: 0; font-weight: 650; font-size: 15.5px; }
</style>

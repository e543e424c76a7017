<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import HistogramBars from '@/charts/HistogramBars.vue'
import { count, exact, measured, plain } from '@/app/format'

import type { Numeric } from '@/api/client'

const props = defineProps<{ numeric: Numeric; decimals: number; histogram: boolean }>()
const { t } = useI18n()
/** Means and spreads have digits of their own; quartiles are numbers that somebody gave, or lie half way. */
const spread = (x: number) => measured(x, props.decimals)
const orNone = (x: number | null | undefined, say: (x: number) => string) => (x == null ? '–' : say(x))
const n = computed(() => props.numeric)
const facts = computed<[string, string][]>(() => [
  [t('topline.n'), count(n.value.n)],
  [t('topline.mean'), spread(n.value.mean)],
  [t('topline.sd'), orNone(n.value.sd, spread)],
  [t('topline.smallest'), exact(n.value.smallest)],
  [t('topline.quartile1'), plain(n.value.quartile1)],
  [t('topline.median'), plain(n.value.median)],
  [t('topline.quartile3'), plain(n.value.quartile3)],
  [t('topline.largest'), exact(n.value.largest)],
])
/** What a design says of the population stands in a table, beside what is so of respondents. */
const estimates = computed(() => {
  const estimate = n.value.estimate
  if (!estimate) return null
  const none = { value: null, lower: null, upper: null }
  const [first, median, third] = estimate.quartiles
  const spreads = { value: estimate.sd, lower: null, upper: null }
  const of = [none, estimate.mean, spreads, none, first, median, third, none].map((e) => e ?? none)
  const say = [count, spread, spread, exact, plain, plain, plain, exact]
  return {
    values: of.map((e, i) => orNone(e.value, say[i]!)),
    intervals: of.map((e, i) => (e.lower == null || e.upper == null ? '–' : t('topline.interval_of', { lower: say[i]!(e.lower), upper: say[i]!(e.upper) }))),
  }
})
</script>

<template>
  <div class="numbers wide">
    <table v-if="estimates" class="figures" data-test="estimated-number">
      <thead>
        <tr>
          <th scope="col"><span class="visually-hidden">{{ t('topline.figure') }}</span></th>
          <th v-for="[name] in facts" :key="name" scope="col">{{ name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">{{ t('topline.estimated_number') }}</th>
          <td v-for="(value, i) in estimates.values" :key="i">{{ value }}</td>
        </tr>
        <tr>
          <th scope="row">{{ t('topline.interval') }}</th>
          <td v-for="(interval, i) in estimates.intervals" :key="i">{{ interval }}</td>
        </tr>
        <tr class="soft">
          <th scope="row">{{ t('topline.of_respondents') }}</th>
          <td v-for="[name, value] in facts" :key="name">{{ value }}</td>
        </tr>
      </tbody>
    </table>
    <dl v-else>
      <div v-for="[name, value] in facts" :key="name">
        <dt>{{ name }}</dt>
        <dd>{{ value }}</dd>
      </div>
    </dl>
    <HistogramBars v-if="histogram" :classes="numeric.classes" :label="t('topline.histogram')" />
    <p v-if="histogram && estimates" class="soft small">{{ t('topline.histogram_respondents') }}</p>
  </div>
</template>

<style scoped>
.numbers { margin: 8px 0 4px; }
.figures { margin-bottom: 8px; }
.figures td { white-space: nowrap; }
dl { display: flex; flex-wrap: wrap; gap: 6px 26px; border-top: 1px solid var(--rule); padding-top: 8px; margin-bottom: 8px; }
dt { font-size: 13px; color: var(--soft); }
dd { margin: 0; font-weight: 600; }
</style>

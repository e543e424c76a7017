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
/** What a design says of the population stands in a table; beside it only what is so of respondents. */
const estimated = computed(() => props.numeric.estimate !== null)
const facts = computed(() => {
  const n = props.numeric
  const of: [string, string][] = [
    [t('topline.mean'), spread(n.mean)],
    [t('topline.sd'), orNone(n.sd, spread)],
    [t('topline.quartile1'), plain(n.quartile1)],
    [t('topline.median'), plain(n.median)],
    [t('topline.quartile3'), plain(n.quartile3)],
  ]
  return [
    [t('topline.n'), count(n.n)],
    ...(estimated.value ? [] : of),
    [t('topline.smallest'), exact(n.smallest)],
    [t('topline.largest'), exact(n.largest)],
  ] as [string, string][]
})
const estimates = computed(() => {
  const n = props.numeric
  if (!n.estimate) return []
  const none = { lower: null, upper: null }
  const [first, median, third] = n.estimate.quartiles
  return [
    { name: t('topline.mean'), ...n.estimate.mean, given: n.mean, say: spread },
    { name: t('topline.sd'), value: n.estimate.sd, ...none, given: n.sd, say: spread },
    { name: t('topline.quartile1'), ...first, given: n.quartile1, say: plain },
    { name: t('topline.median'), ...median, given: n.median, say: plain },
    { name: t('topline.quartile3'), ...third, given: n.quartile3, say: plain },
  ].map((e) => ({
    name: e.name,
    value: orNone(e.value, e.say),
    given: orNone(e.given, e.say),
    interval: e.lower == null || e.upper == null ? '–' : t('topline.interval_of', { lower: e.say(e.lower), upper: e.say(e.upper) }),
  }))
})
</script>

<template>
  <div class="numbers">
    <table v-if="estimated" class="figures" data-test="estimated-number">
      <thead>
        <tr>
          <th scope="col" class="name"><span class="visually-hidden">{{ t('topline.figure') }}</span></th>
          <th scope="col">{{ t('topline.estimated_number') }}</th>
          <th scope="col">{{ t('topline.interval') }}</th>
          <th scope="col">{{ t('topline.of_respondents') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="e in estimates" :key="e.name">
          <th scope="row" class="name">{{ e.name }}</th>
          <td>{{ e.value }}</td>
          <td class="interval">{{ e.interval }}</td>
          <td class="soft">{{ e.given }}</td>
        </tr>
      </tbody>
    </table>
    <dl>
      <div v-for="[name, value] in facts" :key="name">
        <dt>{{ name }}</dt>
        <dd>{{ value }}</dd>
      </div>
    </dl>
    <HistogramBars v-if="histogram" :classes="numeric.classes" :label="t('topline.histogram')" />
    <p v-if="histogram && estimated" class="soft small">{{ t('topline.histogram_respondents') }}</p>
  </div>
</template>

<style scoped>
.numbers { margin: 8px 0 4px; }
.figures { width: auto; margin-bottom: 10px; }
.figures th, .figures td { padding-right: 26px; }
.name { text-align: left; }
.interval { white-space: nowrap; }
dl { display: flex; flex-wrap: wrap; gap: 6px 26px; border-top: 1px solid var(--rule); padding-top: 8px; margin-bottom: 8px; }
dt { font-size: 13px; color: var(--soft); }
dd { margin: 0; font-weight: 600; }
</style>

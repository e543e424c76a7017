<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { fixed } from '@/parts/format'

import type { GoodnessOfFit } from '@/api/client'

/** The claim line: the curve with the statistic, the critical value and the tail. */
const props = defineProps<{ result: GoodnessOfFit; units: string }>()
const { t } = useI18n()
const width = 274
const floor = 122
const height = 92

const last = computed(() => props.result.curve.x[props.result.curve.x.length - 1] ?? 1)
const x = (v: number) => 6 + (Math.min(v, last.value) / last.value) * (width - 14)
const y = (d: number) => floor - (Math.min(d, props.result.curve.top) / props.result.curve.top) * height
const points = computed(() => props.result.curve.x.map((v, i) => ({ v, x: x(v), y: y(props.result.curve.density[i] ?? 0) })))
const line = computed(() => 'M' + points.value.map((p) => `${p.x.toFixed(2)} ${p.y.toFixed(2)}`).join('L'))

function tail(from: number) {
  const beyond = points.value.filter((p) => p.v >= from)
  if (beyond.length === 0) return ''
  return `M${x(from).toFixed(2)} ${floor}L` + beyond.map((p) => `${p.x.toFixed(2)} ${p.y.toFixed(2)}`).join('L') + `L${x(last.value).toFixed(2)} ${floor}Z`
}
const statisticX = computed(() => x(props.result.statistic))
const criticalX = computed(() => x(props.result.criticalValue))
/** Labels turn to the side on which there is room. */
const statisticAnchor = computed(() => (statisticX.value > width * 0.62 ? 'end' : 'start'))
const labelWidth = 80
const criticalAnchor = computed(() => {
  const beyond = statisticX.value - criticalX.value
  return (beyond >= 0 && beyond < labelWidth) || criticalX.value > width - labelWidth ? 'end' : 'start'
})
const statisticText = computed(() => (props.result.curve.statisticOutside ? t('claim.off_scale', { x: fixed(props.result.statistic, 2) }) : `χ² = ${fixed(props.result.statistic, 2)}`))
const spoken = computed(() =>
  t('claim.curve', { df: props.result.df, statistic: fixed(props.result.statistic, 3), critical: fixed(props.result.criticalValue, 3), side: props.result.reject ? t('claim.beyond') : t('claim.below'), p: /^[<>]/.test(props.result.p.exact) ? props.result.p.exact : `= ${props.result.p.exact}` }, props.result.df),
)
</script>

<template>
  <svg class="curve" :viewBox="`0 0 ${width} 150`" role="img" :aria-label="spoken">
    <path :d="tail(result.statistic)" class="tail" />
    <path :d="tail(result.criticalValue)" class="rejection" />
    <path :d="line" class="line" />
    <line x1="6" :x2="width - 6" :y1="floor" :y2="floor" class="axis" />
    <line :x1="criticalX" :x2="criticalX" :y1="62" :y2="floor" class="critical" />
    <text :x="criticalX + (criticalAnchor === 'start' ? 5 : -5)" y="58" class="critical-text" :text-anchor="criticalAnchor">{{ t('claim.critical_mark', { x: fixed(result.criticalValue, 2) }) }}</text>
    <line
      v-if="!result.curve.statisticOutside"
      :x1="statisticX"
      :x2="statisticX"
      y1="26"
      :y2="floor"
      class="statistic"
    />
    <path v-else :d="`M${width - 16} 32h10l-4 -4m4 4l-4 4`" class="statistic" fill="none" />
    <text :x="statisticX" y="18" class="statistic-text" :text-anchor="statisticAnchor">{{ statisticText }}</text>
    <text x="6" y="139">0</text>
    <text :x="width - 6" y="139" text-anchor="end">{{ t('claim.curve_axis', result.df) }}</text>
  </svg>
</template>

<style scoped>
.curve { width: 274px; max-width: 100%; display: block; }
text { font-size: 12.5px; fill: var(--soft); }
.line { fill: none; stroke: var(--ink); stroke-width: 1.6; }
.axis { stroke: var(--ink); }
.tail { fill: var(--mariwash); }
.rejection { fill: var(--rustwash); fill-opacity: 0.75; }
.statistic { stroke: var(--teal); stroke-width: 2.5; }
.statistic-text { fill: var(--teal); font-weight: 650; }
.critical { stroke: var(--ink); stroke-width: 1.5; stroke-dasharray: 4 3; }
.critical-text { fill: var(--ink); }
</style>

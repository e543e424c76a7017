<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { count, plain } from '@/app/format'

/** Classes of equal width as bars, labelled at their lower limits. */
const props = defineProps<{ classes: { from: number; to: number; count: number }[]; label: string }>()
const { t } = useI18n()
const width = 640
const height = 96
const tallest = computed(() => Math.max(...props.classes.map((c) => c.count), 1))
const bars = computed(() => {
  const w = width / props.classes.length
  return props.classes.map((c, i) => ({ x: i * w, w: w - 1, h: (c.count / tallest.value) * height, c }))
})
const spoken = computed(() =>
  props.classes.map((c) => t('topline.class_label', { from: plain(c.from), to: plain(c.to), n: count(c.count) })).join('; '),
)
</script>

<template>
  <svg
    v-if="classes.length > 1"
    class="histogram"
    :viewBox="`-14 -16 ${width + 48} ${height + 38}`"
    role="img"
    :aria-label="`${label}: ${spoken}`"
  >
    <g v-for="b in bars" :key="b.x">
      <rect :x="b.x" :y="height - b.h" :width="b.w" :height="b.h" class="bar" />
      <text :x="b.x + b.w / 2" :y="height - b.h - 4" class="n">{{ count(b.c.count) }}</text>
      <text :x="b.x" :y="height + 16" class="limit">{{ plain(b.c.from) }}</text>
    </g>
    <text :x="width" :y="height + 16" class="limit">{{ plain(classes[classes.length - 1]?.to ?? 0) }}</text>
    <line x1="0" :x2="width" :y1="height" :y2="height" class="axis" />
  </svg>
</template>

<style scoped>
.histogram { width: 100%; max-width: 688px; display: block; margin-left: -14px; }
.bar { fill: var(--bar); }
.axis { stroke: var(--ink); }
text { font-size: 12px; fill: var(--soft); }
.n { text-anchor: middle; }
.limit { text-anchor: middle; }
</style>

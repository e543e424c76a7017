<script setup lang="ts">
import type { ReportRun } from '@/api/client'

/** Text of the report: what looks alike, links, and figures that follow their source. */
defineProps<{ runs: readonly ReportRun[] }>()
</script>

<template>
  <template v-for="(r, i) in runs" :key="i"><component
    :is="r.link ? 'a' : r.code ? 'code' : r.bold ? 'strong' : r.italic ? 'em' : 'span'"
    :href="r.link"
    :title="r.source"
    :class="{ live: r.source, bold: r.bold, italic: r.italic, stale: r.stale }"
  >{{ r.text }}</component><em v-if="r.stale" class="said"> [{{ r.stale }}]</em></template>
</template>

<style scoped>
.live { border-bottom: 1px dotted var(--teal); }
.bold { font-weight: 650; }
.italic { font-style: italic; }
.stale { border-bottom-color: var(--rust); }
.said { color: var(--rust); font-size: 0.92em; }
@media print { .live { border: 0; } }
</style>

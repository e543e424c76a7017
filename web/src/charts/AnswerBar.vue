<script setup lang="ts">
/** An answer's share as a bar, with a tick where the reference share stands. The
 * figures beside it say the same, so it is hidden from screen readers. */
defineProps<{ percent: number; share?: number | undefined; largest: number }>()
</script>

<template>
  <div class="track" aria-hidden="true">
    <div class="bar" :style="{ width: `${(96 * percent) / largest}%` }" />
    <div v-if="share !== undefined" class="tick" :style="{ left: `${(96 * 100 * share) / largest}%` }" />
  </div>
</template>

<style scoped>
.track { position: relative; height: 19px; }
.bar { position: absolute; top: 5px; left: 0; height: 13px; background: var(--bar); }
.tick { position: absolute; top: 1px; width: 3px; height: 20px; margin-left: -1px; background: var(--mari); }
@media (forced-colors: active) { .bar { background: CanvasText; } .tick { background: Highlight; } .bar, .tick { forced-color-adjust: none; } }
</style>

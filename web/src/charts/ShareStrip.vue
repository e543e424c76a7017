<script setup lang="ts">
import { computed } from 'vue'

/** The parts of a row as one strip of 100 %. The figures beside it say the same, so it is
 * hidden from screen readers. */
const props = defineProps<{ parts: number[] }>()
const roomy = 9
const shown = computed(() => props.parts.map((part, i) => ({ part, shade: 1 - (0.78 * i) / Math.max(props.parts.length - 1, 1) })))
</script>

<template>
  <div
    class="strip"
    aria-hidden="true"
  >
    <span
      v-for="({ part, shade }, i) in shown"
      :key="i"
      :style="{ width: `${part}%` }"
    ><i :style="{ opacity: shade }" /><b v-if="part >= roomy">{{ Math.round(part) }}</b></span>
  </div>
</template>

<style scoped>
.strip { display: flex; gap: 2px; height: 24px; }
span { position: relative; min-width: 0; overflow: hidden; display: grid; place-items: center; }
i { position: absolute; inset: 0; background: var(--bar); }
b { position: relative; font-weight: 400; font-size: 13px; line-height: 24px; color: var(--ink); }
@media (forced-colors: active) { i { border: 1px solid CanvasText; } }
</style>

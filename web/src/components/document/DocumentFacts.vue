<script setup lang="ts">
import { useIsReading } from '@/components/reading'
import { useHelp } from '@/composables/useHelp'

import type { Fact } from '@/api/client'

/** Figures with their names, side by side, or in one line to be read. A name that can be explained is pressed
 * for it. */
defineProps<{ facts: Fact[]; line?: boolean }>()
defineEmits<{ explain: [key: string] }>()
const { topics } = useHelp()
const reading = useIsReading()
</script>

<template>
  <dl class="facts" :class="{ line }">
    <div v-for="f in facts" :key="f.key">
      <dt><button
        v-if="!line && !reading && topics.has(f.key)"
        type="button"
        class="name"
        :data-test="`explain-${f.key}`"
        @click="$emit('explain', f.key)"
      >{{ f.name }}</button><template v-else>{{ f.name }}</template></dt>
      <dd :data-test="f.key">{{ f.value }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.facts { display: flex; flex-wrap: wrap; gap: 8px 26px; margin: 8px 0 6px; }
.line { display: contents; }
.line > div { display: flex; gap: 7px; align-items: baseline; }
dt { color: var(--soft); font-size: 13px; }
dd { margin: 0; font-weight: 650; font-size: 15.5px; }
.name {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  text-align: left;
  cursor: help;
  text-decoration: underline dotted 1px;
  text-underline-offset: 3px;
}
.name:hover { color: var(--teal); }
</style>

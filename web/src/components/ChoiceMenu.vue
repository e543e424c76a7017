<script setup lang="ts" generic="T extends string | number | boolean">
import { computed } from 'vue'

import MenuButton from './MenuButton.vue'

/** Chooses one of a few; in a sentence it is one of its blanks, `small` elsewhere. */
const chosen = defineModel<T>({ required: true })
const props = defineProps<{
  items: readonly { value: T; title: string }[]
  label: string
  placeholder?: string
  test?: string
  small?: boolean
}>()
const current = computed(
  () => props.items.find((i) => i.value === chosen.value)?.title ?? props.placeholder ?? String(chosen.value),
)
const entries = computed(() =>
  props.items.map(({ value, title }) => ({ key: String(value), title, chosen: value === chosen.value, act: () => (chosen.value = value) })),
)
</script>

<template>
  <MenuButton
    class="choice"
    :class="{ small }"
    :aria-label="`${label}: ${current}`"
    :data-test="test"
    :label
    :entries
    choice
    :letters="!small"
  >{{ current }}</MenuButton>
</template>

<style scoped>
:deep(.choice) {
  font:
    600 16px/1.45 'Source Sans 3 Variable',
    sans-serif;
  color: var(--teal);
  background: var(--tealwash);
  border: 0;
  border-bottom: 2px solid var(--teal);
  padding: 1px 7px;
  cursor: pointer;
}
:deep(.choice.small) {
  font-size: 14.5px;
  background: none;
  border-bottom: 1px solid var(--rule);
  padding: 1px 0;
  white-space: nowrap;
}
</style>

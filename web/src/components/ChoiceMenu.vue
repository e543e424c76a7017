<script setup lang="ts" generic="T extends string | number | boolean">
import { computed } from 'vue'

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
</script>

<template>
  <v-menu>
    <template #activator="{ props: activator }">
      <button
        v-bind="activator"
        type="button"
        class="choice"
        :class="{ small }"
        :aria-label="`${label}: ${current}`"
        :data-test="test"
      >{{ current }} <span aria-hidden="true">▾</span></button>
    </template>
    <v-list :aria-label="label" role="listbox">
      <v-list-item
        v-for="item in items"
        :key="String(item.value)"
        :title="item.title"
        :active="item.value === chosen"
        role="option"
        :aria-selected="item.value === chosen"
        @click="chosen = item.value"
      />
    </v-list>
  </v-menu>
</template>

<style scoped>
.choice {
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
.choice.small {
  font-size: 14.5px;
  background: none;
  border-bottom: 1px solid var(--rule);
  padding: 1px 0;
  white-space: nowrap;
}
</style>

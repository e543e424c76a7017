<script setup lang="ts" generic="T extends string | number | boolean">
import { computed } from 'vue'

/** A blank in a sentence that is filled by choosing from a list. */
const chosen = defineModel<T>({ required: true })
const props = defineProps<{ items: readonly { value: T; title: string }[]; label: string; placeholder?: string; test?: string }>()
const current = computed(() => props.items.find((i) => i.value === chosen.value)?.title ?? props.placeholder ?? String(chosen.value))
</script>

<template>
  <v-menu>
    <template #activator="{ props: activator }">
      <button v-bind="activator" type="button" class="choice" :aria-label="`${label}: ${current}`" :data-test="test">{{ current }} <span aria-hidden="true">▾</span></button>
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
.choice { font: 600 16px/1.45 'Source Sans 3 Variable', sans-serif; color: var(--teal); background: var(--tealwash); border: 0; border-bottom: 2px solid var(--teal); padding: 1px 7px; cursor: pointer; }
</style>

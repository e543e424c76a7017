<script setup lang="ts">
/** A blank in a sentence that is filled with words; it grows with what is typed. */
const text = defineModel<string>({ required: true })
defineProps<{ label: string; placeholder?: string; maxlength: number; required?: boolean; test?: string }>()
</script>

<template>
  <span class="blank">
    <span class="ghost" aria-hidden="true">{{ text || placeholder || ' ' }}</span>
    <input
      v-model="text"
      type="text"
      size="1"
      :aria-label="label"
      :placeholder="placeholder"
      :maxlength="maxlength"
      :required="required"
      :data-test="test"
      autocomplete="off"
    />
  </span>
</template>

<style scoped>
.blank { display: inline-grid; max-width: 100%; font: 600 16px/1.45 'Source Sans 3 Variable', sans-serif; vertical-align: baseline; }
.blank > * { grid-area: 1 / 1; font: inherit; padding: 1px 7px; }
.ghost { visibility: hidden; white-space: pre; min-width: 70px; overflow: hidden; }
input { width: 100%; min-width: 0; color: var(--teal); background: var(--tealwash); border: 0; border-bottom: 2px solid var(--teal); }
input::placeholder { color: var(--soft); opacity: 1; font-weight: 400; }
</style>

<script setup lang="ts">
/** A cell of a table that is filled in place. What is typed is told when the cell is left,
 * or, where it is live, with every key. */
const props = defineProps<{ value: string | number; label: string; live?: boolean }>()
const emit = defineEmits<{ change: [text: string, field: HTMLInputElement] }>()

function told(event: Event, live: boolean) {
  const field = event.target as HTMLInputElement
  if (live === props.live) emit('change', field.value, field)
}
</script>

<template>
  <input
    type="text"
    :value="value"
    :aria-label="label"
    autocomplete="off"
    @input="told($event, true)"
    @change="told($event, false)"
  />
</template>

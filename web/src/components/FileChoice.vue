<script setup lang="ts">
import { useTemplateRef } from 'vue'

/** Files chosen from the disk. The slot holds what is pressed for it. */
defineProps<{ label: string; accept?: string; multiple?: boolean; test: string }>()
const emit = defineEmits<{ files: [files: File[]] }>()
const field = useTemplateRef<HTMLInputElement>('field')

function chosen() {
  const files = [...(field.value?.files ?? [])]
  if (field.value) field.value.value = '' // so that the same file can be chosen again
  if (files.length) emit('files', files)
}
</script>

<template>
  <slot :open="() => field?.click()" />
  <input
    ref="field"
    type="file"
    class="visually-hidden"
    tabindex="-1"
    :multiple="multiple"
    :accept="accept"
    :aria-label="label"
    :data-test="test"
    @change="chosen"
  />
</template>

<script setup lang="ts">
import { ref, watch } from 'vue'

import type { ChoiceEntry } from '@/api/client'

/** A setting that is typed; it takes effect with Enter or when it is left. */
const props = defineProps<{ entry: ChoiceEntry }>()
const emit = defineEmits<{ typed: [text: string] }>()
const text = ref(props.entry.text)
watch(() => props.entry.text, (is) => (text.value = is))

function done() {
  const now = text.value.trim()
  if (now !== props.entry.text) emit('typed', now)
}
</script>

<template>
  <v-text-field
    v-model="text"
    class="entry"
    :class="{ wide: entry.most > 30 }"
    :label="entry.label"
    :maxlength="entry.most"
    :data-test="`entry-${entry.member}`"
    @keydown.enter.prevent="done"
    @keydown.esc="text = entry.text"
    @blur="done"
  />
</template>

<style scoped>
.entry { flex: 0 1 150px; min-width: 110px; }
.wide { flex-basis: 250px; }
</style>

<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'

import { useIsReading } from './reading'

/** A text that is changed where it stands: press it (or the word shown for it),
 * type, Enter keeps and Esc leaves it. */
const props = defineProps<{ text: string; label: string; maxlength: number; shown?: string; clearable?: boolean }>()
const emit = defineEmits<{ save: [text: string] }>()
const reading = useIsReading()
const editing = ref(false)
const draft = ref('')
const field = ref<HTMLInputElement | null>(null)
const trigger = ref<HTMLButtonElement | null>(null)

/** What was typed and is not kept yet: it is there again if that failed. */
const unkept = ref<string | null>(null)
watch(() => props.text, (text) => text === unkept.value && (unkept.value = null))

async function start() {
  draft.value = unkept.value ?? props.text
  editing.value = true
  await nextTick()
  field.value?.focus()
  field.value?.select()
}

function finish(keep: boolean, back: boolean) {
  if (!editing.value) return
  editing.value = false
  const text = draft.value.trim()
  unkept.value = keep && (props.clearable || text !== '') && text !== props.text ? text : null
  if (unkept.value !== null) emit('save', unkept.value)
  if (back) comeBack()
}
const comeBack = () => void nextTick(() => trigger.value?.focus())
</script>

<template>
  <input
    v-if="editing"
    ref="field"
    v-model="draft"
    class="field"
    :aria-label="label"
    :maxlength="maxlength"
    @keydown.enter.prevent="finish(true, true)"
    @keydown.esc.stop="finish(false, true)"
    @blur="finish(true, false)"
  />
  <span v-else-if="reading" class="plain">{{ text ? (shown ?? text) : '' }}</span>
  <button
    v-else
    ref="trigger"
    type="button"
    class="text"
    :class="{ offered: !text }"
    :title="label"
    @click="start"
  >{{ shown ?? text }}<span class="visually-hidden">. {{ label }}</span></button>
</template>

<style scoped>
.text {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  text-align: left;
  cursor: text;
  border-bottom: 1px solid transparent;
  overflow-wrap: anywhere;
}
.plain { overflow-wrap: anywhere; }
.text:hover {
  border-bottom-color: var(--teal);
}
.field {
  font: inherit;
  color: inherit;
  background: var(--tealwash);
  border: 0;
  border-bottom: 2px solid var(--teal);
  padding: 0 4px;
  margin-left: -4px;
  width: 100%;
  min-width: 120px;
}
.field:focus {
  outline: none;
}
@media print { .offered { display: none; } }
</style>

<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { useSession } from '@/app/session'

import { useIsReading } from './reading'

/** A text that is changed where it stands: press it (or the word shown for it),
 * type, Enter keeps and Esc leaves it. */
const props = defineProps<{ text: string; label: string; maxlength: number; shown?: string; clearable?: boolean }>()
const emit = defineEmits<{ save: [text: string] }>()
const { t } = useI18n()
const reading = useIsReading()
const session = useSession()
const editing = ref(false)
const draft = ref('')
const field = ref<HTMLInputElement | null>(null)
const trigger = ref<HTMLButtonElement | null>(null)

/** What was typed and is not kept yet: it is there again if that failed. */
const unkept = ref<string | null>(null)
watch(() => props.text, (text) => text === unkept.value && (unkept.value = null))

/** What stood there when it was begun; another one meanwhile is told, and decided on. */
const began = ref('')
const meanwhile = computed(() => editing.value && props.text !== began.value)
async function start() {
  draft.value = unkept.value ?? props.text
  began.value = props.text
  editing.value = true
  await nextTick()
  field.value?.focus()
  field.value?.select()
}

function finish(keep: boolean, back: boolean) {
  if (!editing.value) return
  // Left without an answer to what came meanwhile, it is kept to go on with, and nothing is overwritten.
  const asked = meanwhile.value && !back
  editing.value = false
  const text = draft.value.trim()
  const wanted = keep && (props.clearable || text !== '') && text !== props.text && text !== (back ? props.text : began.value)
  unkept.value = wanted ? text : null
  if (unkept.value !== null && !asked) emit('save', unkept.value)
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
  /><span v-if="editing && meanwhile" class="meanwhile small" role="status" data-test="meanwhile">{{
    text ? t('live.meanwhile', { text }) : t('live.meanwhile_empty')
  }}</span>
  <span v-if="!editing && (reading || !session.may.change)" class="plain">{{ text ? (shown ?? text) : '' }}</span>
  <button
    v-else-if="!editing"
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
.meanwhile { color: var(--rust); display: block; }
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

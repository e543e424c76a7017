<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Note } from '@/api/client'

/** Marginalia: what was noticed about the figures beside them, with the remedy as one press.
 * What can be answered stays quiet once it is, and may speak again. Where they are gathered, what
 * is in order stands in one line behind what needs an answer. */
const props = defineProps<{ notes: Note[]; base?: 'answered' | 'everyone'; answerable?: boolean; gathered?: boolean }>()
const emit = defineEmits<{ remedy: [remedy: NonNullable<Note['remedy']>]; seen: [id: string, seen: boolean, reason: string] }>()
const { t } = useI18n()
const all = computed(() => props.notes.filter((n) => n.base === '' || n.base === props.base))
const shown = computed(() => all.value.filter((n) => n.seen === null))
const parts = computed(() => {
  const inOrder = props.gathered ? shown.value.filter((n) => !n.caution && !n.remedy) : []
  return inOrder.length < 2 ? [shown.value] : [shown.value.filter((n) => !inOrder.includes(n)), inOrder]
})
const quiet = computed(() => all.value.filter((n) => n.seen !== null))
const answering = ref('')
const reason = ref('')
function keep(id: string) {
  emit('seen', id, true, reason.value.trim())
  answering.value = ''
  reason.value = ''
}
</script>

<template>
  <aside class="margin">
    <component :is="at ? 'details' : 'div'" v-for="(notesOf, at) in parts" :key="at" :data-test="at ? 'notes-in-order' : undefined">
      <summary v-if="at" class="act">{{ t(parts[0]!.length ? 'note.more_in_order' : 'note.in_order', { n: notesOf.length }) }}</summary>
      <div v-for="(note, i) in notesOf" :key="i" class="note" :class="{ caution: note.caution }">
        <strong v-if="note.caution" class="visually-hidden">{{ t('app.caution') }}</strong>
        {{ note.text }}
        <button
          v-if="note.remedy"
          type="button"
          class="act"
          data-test="remedy"
          @click="$emit('remedy', note.remedy)"
        >{{ note.remedy.label }}</button>
        <template v-if="answerable && note.id">
          <form v-if="answering === note.id" class="answer" @submit.prevent="keep(note.id)">
            <input
              v-model="reason"
              type="text"
              maxlength="300"
              :aria-label="t('note.reason')"
              :placeholder="t('note.reason')"
              data-test="note-reason"
              @keydown.esc="answering = ''"
            />
            <button type="submit" class="act" data-test="note-keep">{{ t('note.keep') }}</button>
          </form>
          <button
            v-else
            type="button"
            class="act seen"
            :aria-label="`${t('note.seen')}: ${note.text}`"
            data-test="note-seen"
            @click="answering = note.id"
          >{{ t('note.seen') }}</button>
        </template>
      </div>
    </component>
    <details v-if="quiet.length" class="quiet" data-test="notes-quiet">
      <summary class="act">{{ t('note.quiet', { n: quiet.length }, quiet.length) }}</summary>
      <p v-for="note in quiet" :key="note.id">{{ note.text }} <b v-if="note.seen">{{ note.seen }}</b>
        <button
          type="button"
          class="act"
          data-test="note-again"
          @click="$emit('seen', note.id, false, '')"
        >{{ t('note.again') }}</button></p>
    </details>
    <slot />
  </aside>
</template>

<style scoped>
.margin { font: italic 14.3px/1.4 'Source Serif 4 Variable', serif; color: var(--soft); }
.note { position: relative; margin-bottom: 11px; overflow-wrap: anywhere; }
.note::before { content: ''; position: absolute; left: -18px; top: 9px; width: 11px; border-top: 1px solid var(--soft); }
.note.caution { color: var(--ink); }
.note.caution::before { border-top: 3px double var(--ink); width: 13px; top: 8px; }
.act { display: block; font: 600 14px 'Source Sans 3 Variable', sans-serif; text-align: left; }
.seen { font-weight: 400; font-size: 12.5px; color: var(--soft); padding: 0; opacity: 0; }
.note:hover .seen, .seen:focus-visible { opacity: 1; }
@media (hover: none) { .seen { opacity: 1; } }
.answer { display: flex; gap: 8px; align-items: baseline; }
.answer input {
  flex: 1;
  min-width: 0;
  font: 13.5px 'Source Sans 3 Variable', sans-serif;
  color: var(--ink);
  background: var(--tealwash);
  border: 0;
  border-bottom: 2px solid var(--teal);
  padding: 2px 5px;
}
.quiet { margin-bottom: 11px; }
summary { list-style: none; cursor: pointer; }
@media (max-width: 1000px) { .note::before { display: none; } }
</style>

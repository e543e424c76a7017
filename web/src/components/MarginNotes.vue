<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Note } from '@/api/client'

/** Marginalia: what was noticed about the figures beside them, with the remedy as one press. */
const props = defineProps<{ notes: Note[]; base?: 'answered' | 'everyone' }>()
const shown = computed(() => props.notes.filter((n) => n.base === '' || n.base === props.base))
defineEmits<{ remedy: [remedy: NonNullable<Note['remedy']>] }>()
const { t } = useI18n()
</script>

<template>
  <aside class="margin">
    <div v-for="(note, i) in shown" :key="i" class="note" :class="{ caution: note.caution }">
      <strong v-if="note.caution" class="visually-hidden">{{ t('app.caution') }}</strong>
      {{ note.text }}
      <button v-if="note.remedy" type="button" class="act" @click="$emit('remedy', note.remedy)">{{ note.remedy.label }}</button>
    </div>
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
@media (max-width: 1000px) { .note::before { display: none; } }
</style>

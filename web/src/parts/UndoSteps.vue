<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import type { Edit } from '@/api/client'

/** Undo and redo of the codebook and the answers, saying what each would act on. */
defineProps<{ undo: Edit | null; redo: Edit | null }>()
defineEmits<{ step: [which: 'undo' | 'redo'] }>()
const { t } = useI18n()
</script>

<template>
  <span class="steps">
    <button type="button" class="act" :disabled="undo === null" :title="undo ? t('history.undo', { text: undo.text }) : t('history.nothing')" data-test="study-undo" @click="$emit('step', 'undo')">{{ t('app.undo') }}</button>
    <button type="button" class="act" :disabled="redo === null" :title="redo ? t('history.redo', { text: redo.text }) : t('history.nothing')" data-test="study-redo" @click="$emit('step', 'redo')">{{ t('app.redo') }}</button>
  </span>
</template>

<style scoped>
.steps { display: inline-flex; gap: 12px; }
.act { font-weight: 400; color: var(--soft); padding: 0; }
.act:disabled { opacity: 1; color: var(--soft); text-decoration: none; cursor: default; border: 0; }
.act:not(:disabled) { color: var(--teal); }
</style>

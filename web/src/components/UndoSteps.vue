<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import type { Edit } from '@/api/client'

/** Undo and redo of the codebook and the answers, saying what each would act on. */
defineProps<{ undo: Edit | null; redo: Edit | null }>()
defineEmits<{ step: [which: 'undo' | 'redo', edit: number] }>()
const { t } = useI18n()
const of = (step: 'undo' | 'redo', e: Edit) =>
  e.author ? t(`history.${step}_of`, { text: e.text, author: e.author }) : t(`history.${step}`, { text: e.text })
</script>

<template>
  <span v-if="undo || redo" class="steps">
    <button
      v-if="undo"
      type="button"
      class="act"
      :title="of('undo', undo)"
      data-test="study-undo"
      @click="$emit('step', 'undo', undo.id)"
    >{{ t('app.undo') }}</button>
    <button
      v-if="redo"
      type="button"
      class="act"
      :title="of('redo', redo)"
      data-test="study-redo"
      @click="$emit('step', 'redo', redo.id)"
    >{{ t('app.redo') }}</button>
  </span>
</template>

<style scoped>
.steps { display: inline-flex; gap: 12px; }
.steps::before { content: '·'; }
.act { font-weight: 400; padding: 0; }
</style>

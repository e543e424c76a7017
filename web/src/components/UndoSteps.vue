<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { useSession } from '@/app/session'
import { who } from '@/app/who'

import type { Edit } from '@/api/client'

/** Undo and redo of the codebook and the answers, saying what each would act on; what somebody else did is asked about. */
const props = defineProps<{ undo: Edit | null; redo: Edit | null }>()
const emit = defineEmits<{ step: [which: 'undo' | 'redo', edit: number] }>()
const { t } = useI18n()
type Step = 'undo' | 'redo'
const session = useSession()
const steps = computed(() => {
  const all = session.may.ask ? (['undo', 'redo'] as const) : []
  return all.flatMap((step) => (props[step] ? [{ step, edit: props[step] }] : []))
})
const of = (step: Step, e: Edit) =>
  e.author ? t(`history.${step}_of`, { text: e.text, author: e.author }) : t(`history.${step}`, { text: e.text })
const asked = ref<Step | null>(null)
watch(() => [props.undo?.id, props.redo?.id], () => (asked.value = null))
function press(step: Step, e: Edit) {
  if (who.value && e.by !== who.value.id && asked.value !== step) return void (asked.value = step)
  asked.value = null
  emit('step', step, e.id)
}
</script>

<template>
  <span v-if="steps.length" class="steps">
    <template v-for="{ step, edit } in steps" :key="step">
      <span v-if="asked === step" class="ask" role="status" data-test="undo-ask">
        {{ t(`history.${step}_ask`, { author: edit.author, text: edit.text }) }}
        <button type="button" class="act" data-test="undo-yes" @click="press(step, edit)">{{ t('history.yes') }}</button>
        <button type="button" class="act" @click="asked = null">{{ t('history.leave') }}</button></span>
      <button
        v-else
        type="button"
        class="act"
        :title="of(step, edit)"
        :data-test="`study-${step}`"
        @click="press(step, edit)"
      >{{ t(`app.${step}`) }}</button>
    </template>
  </span>
</template>

<style scoped>
.steps { display: inline-flex; gap: 12px; }
.steps::before { content: '·'; }
.ask { display: inline-flex; flex-wrap: wrap; gap: 4px 12px; color: var(--ink); }
.act { font-weight: 400; padding: 0; }
</style>

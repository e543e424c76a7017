<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'

import type { WaveAsk, Waves } from '@/api/client'

/** Takes all that is asked and reported of one wave to another: a sentence whose blanks are the two, and what it
 * would take along. */
const props = defineProps<{ study: number }>()
const emit = defineEmits<{ taken: []; leave: [] }>()
const { t } = useI18n()
const waves = shallowRef<Waves | null>(null)
const { error, attempt } = useAttempt()
async function look(ask: WaveAsk) {
  const got = await attempt(() => api.waves(props.study, ask))
  if (got) waves.value = got.value
}
onMounted(() => look({}))
watch(() => props.study, () => look({}))
const questions = computed(() => (waves.value?.questions ?? []).map((q) => ({ value: q.id, title: q.name })))
const named = computed(() => (waves.value?.answers ?? []).map((w) => ({ value: w.code, title: t('next_wave.wave', { label: w.label, n: w.n }) })))
const from = computed(() => [{ value: '', title: t('next_wave.all') }, ...named.value.filter((w) => w.value !== waves.value?.to)])
const to = computed(() => named.value.filter((w) => w.value !== waves.value?.from))
const along = computed(() => {
  const w = waves.value
  if (!w?.to) return []
  const kinds = ['claims', 'described', 'tallies', 'books'] as const
  return kinds.filter((k) => w[k] > 0).map((k) => t(`next_wave.along.${k}`, { n: w[k] }))
})
const label = (code: string) => waves.value?.answers.find((w) => w.code === code)?.label ?? code
async function take() {
  const w = waves.value
  if (!w) return
  if (await attempt(() => api.takeToWave(props.study, w.question, w.from, w.to))) emit('taken')
}
</script>

<template>
  <div class="next" data-test="next-wave">
    <ErrorNote v-if="error" :error="error" />
    <template v-if="waves && questions.length === 0">
      <p>{{ t('next_wave.no_question') }}</p>
    </template>
    <template v-else-if="waves">
      <p class="sentence">
        <I18nT keypath="next_wave.sentence" scope="global">
          <template #question><ChoiceMenu
            :model-value="waves.question"
            :items="questions"
            :label="t('next_wave.labels.question')"
            :placeholder="t('next_wave.which')"
            test="wave-question"
            @update:model-value="(question) => look({ question })"
          /></template>
          <template #from><ChoiceMenu
            :model-value="waves.from"
            :items="from"
            :label="t('next_wave.labels.from')"
            test="wave-from"
            @update:model-value="(code) => look({ question: waves!.question, from: code, ...(waves!.to ? { to: waves!.to } : {}) })"
          /></template>
          <template #to><ChoiceMenu
            :model-value="waves.to"
            :items="to"
            :label="t('next_wave.labels.to')"
            :placeholder="t('next_wave.choose')"
            test="wave-to"
            @update:model-value="(code) => look({ question: waves!.question, from: waves!.from, to: code })"
          /></template>
        </I18nT>
      </p>
      <template v-if="waves.to">
        <p v-if="along.length" class="small" data-test="wave-along">
          {{ t('next_wave.goes', { list: along.join(', ') }) }}
          {{ waves.staying ? t('next_wave.stays', { n: waves.staying }) : '' }}
          {{ waves.compared ? t('next_wave.compared', { since: label(waves.compared) }) : '' }}
        </p>
        <p v-else class="small">{{ t('next_wave.nothing') }}</p>
        <p v-if="along.length && waves.made.length" class="soft small">{{ t('next_wave.made', { n: waves.made.length, list: waves.made.join(', ') }) }}</p>
      </template>
      <p v-else-if="waves.question && waves.from" class="small">{{ t('next_wave.there', { wave: label(waves.from) }) }}</p>
    </template>
    <p class="acts">
      <v-btn
        v-if="along.length"
        variant="flat"
        color="primary"
        data-test="wave-take"
        @click="take"
      >{{ t('next_wave.take', { wave: label(waves!.to) }) }}</v-btn>
      <button type="button" class="act" @click="emit('leave')">{{ t('app.cancel') }}</button>
    </p>
  </div>
</template>

<style scoped>
.next { border-left: 3px solid var(--teal); padding: 2px 0 4px 14px; margin: 0 0 14px; max-width: 940px; }
.sentence { font: 500 16.5px/2 'Source Serif 4 Variable', serif; }
@media print { .next { display: none; } }
</style>

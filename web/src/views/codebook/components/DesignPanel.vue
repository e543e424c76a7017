<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import SentenceBlank from '@/components/SentenceBlank.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import DrawnWords from './DrawnWords.vue'

import type { CodebookQuestion, Design, DesignBody } from '@/api/client'

/** How the respondents were drawn, as a sentence with blanks; what is presumed of the columns is only
 * proposed, and holds once it is stated. */
const props = defineProps<{ studyId: number; units: string; questions: CodebookQuestion[] }>()
const emit = defineEmits<{ saved: [] }>()
const { t } = useI18n()
const none = 0
const byDrawing = ''
const empty: DesignBody = {
  weight: null, strata: [], cluster: null, fraction: '', singlePsu: 'refuse', population: null,
  replicates: [], method: '', fay: '', factors: '', df: 0, off: false,
}
const { data, error: failed } = useLoad(() => [props.studyId, 'design'], (signal) => api.design(props.studyId, signal))
const { error, attempt } = useAttempt()
const draft = ref<DesignBody>(empty)
watch(data, (is) => is && begin(is), { immediate: true })
function begin(design: Design) {
  const { stated, proposed, weight, strata, cluster, fraction, singlePsu, population } = design
  const { replicates, method, fay, factors, df, off } = design
  draft.value = {
    ...(stated ? { weight, strata, cluster, replicates } : proposed), fraction, singlePsu, population, method, fay, factors, df, off,
  }
}

const named = (ids: (number | null)[]) => props.questions.filter((q) => ids.includes(q.id)).map((q) => q.name)
/** What of the sentence nobody stated yet. */
const proposed = computed(() => {
  const is = data.value?.proposed
  if (!is || data.value?.stated) return ''
  const replicates = is.replicates.length ? [data.value?.sets.find((s) => s.questions[0] === is.replicates[0])?.name ?? ''] : []
  return [...named([is.weight, ...is.strata, is.cluster]), ...replicates].map((name) => `“${name}”`).join(', ')
})
const weighting = computed(() => [
  { value: none, title: t('sample_design.once') },
  ...props.questions
    .filter((q) => data.value?.weights.includes(q.id))
    .map((q) => ({ value: q.id, title: t('sample_design.by', { name: q.name }) })),
])
const sources = computed(() => [
  { value: byDrawing, title: t('sample_design.by_drawing') },
  ...(data.value?.sets ?? []).map((s) => ({ value: s.name, title: t('sample_design.by_set', { n: s.questions.length, name: s.name }) })),
])
const methods = computed(() => (['jk1', 'brr', 'fay', 'bootstrap', 'factors'] as const)
  .map((value) => ({ value, title: t(`sample_design.method.${value}`) })))
const weight = computed({ get: () => draft.value.weight ?? none, set: (id) => (draft.value.weight = id || null) })
const source = computed({
  get: () => data.value?.sets.find((s) => s.questions.some((id) => draft.value.replicates.includes(id)))?.name ?? byDrawing,
  set: (name) => {
    const replicates = data.value?.sets.find((s) => s.name === name)?.questions ?? []
    const others = replicates.length ? { strata: [], cluster: null, population: null } : { method: '' as const }
    draft.value = { ...draft.value, replicates: [...replicates], ...others }
  },
})
const df = computed({
  get: () => (draft.value.df ? String(draft.value.df) : ''),
  set: (text) => (draft.value.df = Math.max(0, Math.trunc(Number(text)) || 0)),
})
const says = computed(() => {
  const { weight, strata, cluster, replicates } = draft.value
  return weight !== null || strata.length > 0 || cluster !== null || replicates.length > 0
})

async function save(body: DesignBody) {
  const saved = await attempt(() => api.setDesign(props.studyId, body))
  if (!saved) return
  data.value = saved.value
  emit('saved')
}
</script>

<template>
  <section class="drawn">
    <p class="lead">{{ t('sample_design.lead') }}</p>
    <ErrorNote v-if="failed" :error="failed" />
    <template v-if="data">
      <p v-if="data.stated" data-test="design-said">{{ data.said.join(' ') }}</p>
      <p v-if="data.problem" class="caution" role="alert">{{ data.problem }}</p>
      <form data-test="design-form" @submit.prevent="says && save({ ...draft, off: false })">
        <p class="sentence">
          <span>{{ t('sample_design.each', { units }) }}</span>
          <ChoiceMenu v-model="weight" :items="weighting" :label="t('sample_design.weight')" test="design-weight" />
          <template v-if="data.sets.length">
            <span class="close">.</span>
            <span>{{ t('sample_design.replicates_says') }}</span>
            <ChoiceMenu v-model="source" :items="sources" :label="t('sample_design.replicates_label')" test="design-source" />
          </template>
          <template v-if="draft.replicates.length">
            <span class="close">{{ t('sample_design.made') }}</span>
            <ChoiceMenu
              v-model="draft.method"
              :items="methods"
              :label="t('sample_design.method_label')"
              :placeholder="t('sample_design.method_hint')"
              test="design-method"
            />
            <SentenceBlank
              v-if="draft.method === 'fay'"
              v-model="draft.fay"
              :label="t('sample_design.fay')"
              :placeholder="t('sample_design.fay_hint')"
              :maxlength="20"
              test="design-fay"
            />
            <SentenceBlank
              v-if="draft.method === 'factors'"
              v-model="draft.factors"
              :label="t('sample_design.factors')"
              :placeholder="t('sample_design.factors_hint')"
              :maxlength="20000"
              test="design-factors"
            />
            <span class="close">{{ t('sample_design.df_says') }}</span>
            <SentenceBlank
              v-model="df"
              :label="t('sample_design.df')"
              :placeholder="t('sample_design.df_hint')"
              :maxlength="6"
              test="design-df"
            />
          </template>
          <DrawnWords v-else v-model="draft" :design="data" :questions="questions" />
        </p>
        <p v-if="proposed" class="soft small" data-test="design-proposed">{{ t('sample_design.proposed_all', { names: proposed }) }}</p>
        <ErrorNote v-if="error" :error="error" />
        <p class="acts">
          <v-btn
            type="submit"
            variant="flat"
            color="primary"
            :disabled="!says"
            data-test="design-save"
          >{{ t('sample_design.state') }}</v-btn>
          <button
            v-if="data.stated"
            type="button"
            class="act"
            data-test="design-remove"
            @click="save(empty)"
          >{{ t('sample_design.remove') }}</button>
        </p>
      </form>
      <p class="soft small">{{ t('sample_design.serves') }}</p>
    </template>
  </section>
</template>

<style scoped>
.drawn { max-width: 860px; display: grid; gap: 12px; }
.sentence { font-size: 16px; line-height: 2.2; }
.sentence > :deep(*) { margin-right: 6px; }
.sentence :deep(:has(+ .close)) { margin-right: 1px; }
.acts { margin-top: 12px; }
</style>

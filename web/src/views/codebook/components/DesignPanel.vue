<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import SentenceBlank from '@/components/SentenceBlank.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { CodebookQuestion, Design, DesignBody } from '@/api/client'

/** How the respondents were drawn, as a sentence with blanks; what is presumed of the columns'
 * kinds is only proposed, and holds once it is stated. */
const props = defineProps<{ studyId: number; units: string; questions: CodebookQuestion[] }>()
const emit = defineEmits<{ saved: [] }>()
const { t } = useI18n()
const none = 0
const empty: DesignBody = { weight: null, strata: [], cluster: null, fraction: '', singlePsu: 'refuse', off: false }
const { data, error: failed } = useLoad(() => [props.studyId, 'design'], (signal) => api.design(props.studyId, signal))
const { error, attempt } = useAttempt()
const draft = ref<DesignBody>(empty)
const proposed = computed(() => {
  const id = data.value?.proposed ?? null
  return id !== null && draft.value.weight === id ? props.questions.find((q) => q.id === id) : undefined
})

watch(data, (is) => is && begin(is), { immediate: true })
function begin({ stated, proposed: only, weight, strata, cluster, fraction, singlePsu, off }: Design) {
  draft.value = { weight: stated ? weight : only, strata: [...strata], cluster, fraction, singlePsu, off }
}

const among = (ids: number[] | undefined) => props.questions.filter((q) => ids?.includes(q.id))
const weighting = computed(() => [
  { value: none, title: t('sample_design.once') },
  ...among(data.value?.weights).map((q) => ({ value: q.id, title: t('sample_design.by', { name: q.name }) })),
])
const labels = computed(() => among(data.value?.parts).map((q) => ({ value: q.id, title: `${q.number} · ${q.name}` })))
const clusters = computed(() => [{ value: none, title: t('sample_design.alone') }, ...labels.value])
const singles = computed(() => (['refuse', 'centre', 'zero'] as const).map((value) => ({ value, title: t(`sample_design.single.${value}`) })))
const weight = computed({ get: () => draft.value.weight ?? none, set: (id) => (draft.value.weight = id || null) })
const cluster = computed({ get: () => draft.value.cluster ?? none, set: (id) => (draft.value.cluster = id || null) })
const says = computed(() => draft.value.weight !== null || draft.value.strata.length > 0 || draft.value.cluster !== null)

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
          <span class="close">{{ t('sample_design.within') }}</span>
          <v-autocomplete
            v-model="draft.strata"
            class="strata"
            :items="labels"
            multiple
            chips
            closable-chips
            hide-details
            :aria-label="t('sample_design.strata')"
            :placeholder="draft.strata.length ? '' : t('sample_design.one_stratum')"
            :no-data-text="t('app.nothing_found')"
            data-test="design-strata"
          />
          <span class="close">{{ t('sample_design.in') }}</span>
          <ChoiceMenu v-model="cluster" :items="clusters" :label="t('sample_design.cluster')" test="design-cluster" />
          <span class="close">{{ t('sample_design.of_these') }}</span>
          <SentenceBlank
            v-model="draft.fraction"
            :label="t('sample_design.fraction')"
            :placeholder="t('sample_design.few')"
            :maxlength="20"
            test="design-fraction"
          />
          <span>{{ t('sample_design.were') }}</span>
          <ChoiceMenu v-model="draft.singlePsu" :items="singles" :label="t('sample_design.single_label')" test="design-single" />
        </p>
        <p v-if="proposed" class="soft small">{{ t('sample_design.proposed', { name: proposed.name }) }}</p>
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
.sentence > * { margin-right: 6px; }
.sentence > .strata + .close { margin-left: -6px; }
.strata { display: inline-grid; min-width: 260px; max-width: 100%; vertical-align: middle; }
.acts { margin-top: 12px; }
</style>

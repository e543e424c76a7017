<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'
import SentenceBlank from '@/components/SentenceBlank.vue'

import type { CodebookQuestion, Design, DesignBody } from '@/api/client'

/** The part of the sentence that tells strata, clusters and how many of them were drawn. */
const props = defineProps<{ design: Design; questions: CodebookQuestion[] }>()
const draft = defineModel<DesignBody>({ required: true })
const { t } = useI18n()
const none = 0
const among = (ids: number[]) => props.questions.filter((q) => ids.includes(q.id))
const labels = computed(() => among(props.design.parts).map((q) => ({ value: q.id, title: `${q.number} · ${q.name}` })))
const clusters = computed(() => [{ value: none, title: t('sample_design.alone') }, ...labels.value])
const populations = computed(() => [
  { value: none, title: t('sample_design.no_population') },
  ...among(props.design.numbers).map((q) => ({ value: q.id, title: t('sample_design.population_by', { name: q.name }) })),
])
const singles = computed(() =>
  (['refuse', 'centre', 'zero'] as const).map((value) => ({ value, title: t(`sample_design.single.${value}`) })))
const cluster = computed({ get: () => draft.value.cluster ?? none, set: (id) => (draft.value.cluster = id || null) })
const population = computed({ get: () => draft.value.population ?? none, set: (id) => (draft.value.population = id || null) })
</script>

<template>
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
  <span class="close">{{ t('sample_design.population') }}</span>
  <ChoiceMenu v-model="population" :items="populations" :label="t('sample_design.population_label')" test="design-population" />
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
</template>

<style scoped>
.strata { display: inline-grid; min-width: 260px; max-width: 100%; vertical-align: middle; }
</style>

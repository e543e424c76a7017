<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { isUnfolded, unfold } from '@/composables/useUnfolded'
import { count } from '@/app/format'
import TableActs from '@/components/TableActs.vue'

import GroupSummaries from './GroupSummaries.vue'
import NumberSummary from './NumberSummary.vue'
import TallyColumns from './TallyColumns.vue'
import TallyTable from './TallyTable.vue'

import { mostValues } from '../longList'

import type { Analysis, Question, Study } from '@/api/client'
import type { View } from '../composables/useView'

/** What a question came to: its tally, or what is known of its numbers or texts. */
const props = defineProps<{
  question: Question
  study: Study
  view: View
  folded: boolean
  line: boolean
  /** The claim whose shares stand as ticks, of several or the only one. */
  reference: Analysis | null
  several: boolean
  picked: string[] | null
}>()
const emit = defineEmits<{ base: []; relabel: [slot: number, label: string]; pick: [code: string]; view: [change: Partial<View>] }>()
const { t } = useI18n()
/** A long list is shown by its largest answers until it is unfolded, a number of many values by what describes it. */
const described = computed(() => props.question.numeric !== null && props.question.rows.length > mostValues)
const isLong = computed(() => described.value || props.question.largest !== null)
const key = computed(() => `q${props.question.id}` as const)
const short = computed(() => isLong.value && !props.picked && !isUnfolded(props.study.id, key.value))
const tallyHeads = computed(() => [t('topline.answer'), t('topline.count'), t(`topline.of_${props.view.base}`)])
</script>

<template>
  <div v-if="question.tabulated && !folded && !(described && short)" class="tabulated">
    <div class="wide"><TallyTable
      :question="question"
      :study="study"
      :base="view.base"
      :show-codes="view.codes"
      :cumulative="view.cumulative"
      :proportions="view.proportions"
      :reference="reference"
      :several="several"
      :picked="picked"
      :folded="short"
      @unfold="unfold(study.id, key)"
      @base="$emit('base')"
      @relabel="(slot, label) => emit('relabel', slot, label)"
      @pick="emit('pick', $event)"
    /></div>
    <p v-if="isLong && !picked && !short"><button
      type="button"
      class="act"
      aria-expanded="true"
      data-test="fold-answers"
      @click="unfold(study.id, key, false)"
    >{{ t(described ? 'topline.fold_values' : 'topline.fold_answers') }}</button></p>
    <TableActs v-if="!picked" :address="api.questionTable(study.id, question.id, view.base, view)" :columns="tallyHeads">
      <TallyColumns :question="question" :view="view" @view="emit('view', $event)" />
    </TableActs>
    <p v-else class="soft small">{{ t('topline.picking') }}</p>
  </div>
  <p v-if="question.isCounts">{{ t('topline.is_counts') }}</p>
  <GroupSummaries v-if="question.summaries.length" :summaries="question.summaries" />
  <NumberSummary
    v-if="question.numeric && !folded"
    :numeric="question.numeric"
    :decimals="study.decimals"
    :histogram="!question.tabulated || described"
  />
  <p v-if="described && short"><button
    type="button"
    class="act"
    aria-expanded="false"
    data-test="unfold-answers"
    @click="unfold(study.id, key)"
  >{{ t('topline.all_values', { n: question.rows.length }) }} <span aria-hidden="true">▾</span></button></p>
  <p
    v-if="['continuous', 'weight', 'count'].includes(question.kind) && !question.numeric && !question.isCounts"
    class="soft"
  >{{ t('topline.no_numbers') }}</p>
  <p v-if="question.different > 0 && !line" class="soft">
    {{ t('topline.different', { n: count(question.different) }, question.different) }}<template v-if="question.examples.length">
      , {{ t('topline.examples', { list: question.examples.join(', ') }) }}
    </template>
  </p>
</template>

<style scoped>
.tabulated { position: relative; }
/* With a pointer the ways to take the table away come over the line above it. */
@media (hover: hover) and (min-width: 641px) {
  .tabulated :deep(.leave) { position: absolute; right: 0; bottom: calc(100% + 6px); background: var(--paper); padding-left: 14px; }
}
</style>

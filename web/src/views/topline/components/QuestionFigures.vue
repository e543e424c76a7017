<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { count } from '@/app/format'
import TableActs from '@/components/TableActs.vue'

import GroupSummaries from './GroupSummaries.vue'
import NumberSummary from './NumberSummary.vue'
import TallyColumns from './TallyColumns.vue'
import TallyTable from './TallyTable.vue'

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
const tallyHeads = computed(() => [t('topline.answer'), t('topline.count'), t(`topline.of_${props.view.base}`)])
</script>

<template>
  <div v-if="question.tabulated && !folded" class="wide">
    <TallyTable
      :question="question"
      :study="study"
      :base="view.base"
      :show-codes="view.codes"
      :cumulative="view.cumulative"
      :proportions="view.proportions"
      :reference="reference"
      :several="several"
      :picked="picked"
      @base="$emit('base')"
      @relabel="(slot, label) => emit('relabel', slot, label)"
      @pick="emit('pick', $event)"
    />
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
    :histogram="!question.tabulated"
  />
  <p
    v-if="['continuous', 'weight', 'count'].includes(question.kind) && !question.numeric && !question.isCounts"
    class="soft"
  >{{ t('topline.no_numbers') }}</p>
  <p v-if="question.different > 0 && !line" class="soft">
    {{ t('topline.different', { n: count(question.different) }, question.different) }}<template v-if="question.examples.length">
      , {{ t('topline.examples', { list: question.examples.join(', ') }) }}
    </template>
  </p>
  <p
    v-if="!question.tabulated && !line && question.missing > 0 && question.summaries.length === 0"
    class="soft small"
  >{{ t('topline.missing_title_everyone') }}: {{ question.missingRows.map((r) => `${r.label}: ${count(r.count)}`).join(' · ') }}</p>
</template>

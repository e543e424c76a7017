<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import AnswerBar from '@/charts/AnswerBar.vue'
import { count, fixed, signed } from '@/app/format'
import InlineText from '@/components/InlineText.vue'
import { useIsReading } from '@/components/reading'

import type { Analysis, AnswerRow, Question, Study } from '@/api/client'
import type { Base } from '../composables/useView'

const props = defineProps<{
  question: Question
  study: Study
  base: Base
  showCodes: boolean
  cumulative: boolean
  /** Shares as proportions, with the same digits, instead of percents. */
  proportions: boolean
  reference: Analysis | null
  several: boolean
  picked: string[] | null
  /** A long list is shown by its largest answers. */
  folded: boolean
}>()
defineEmits<{ unfold: []; base: []; relabel: [slot: number, label: string]; pick: [code: string] }>()
const { t } = useI18n()
const reading = useIsReading()

/** In a set respondents count in several rows, so their percents have no total. */
const isSet = computed(() => props.question.kind === 'choose_all')
const percent = (row: AnswerRow) => (props.base === 'answered' ? row.percentOfAnswered : row.percentOfEveryone)
/** Shares of the reference speak of those who answered; beside another base they would mislead. */
const reference = computed(() => {
  const ticks = props.base === 'answered' ? props.reference?.document?.ticks : null
  return ticks ? new Map(ticks.shares.map((s) => [s.code, s])) : null
})
const largest = computed(() => {
  const all = props.question.rows.map((r) => (estimated.value ? r.estimate?.percent : percent(r)) ?? 0)
  if (reference.value) for (const r of reference.value.values()) all.push(100 * r.share)
  return Math.max(...all, 1)
})
const source = computed(() => {
  const name = props.reference?.document?.ticks?.source || t('ask.all_equal')
  return props.several ? t('topline.of_claim', { source: name, n: props.reference?.number ?? '' }) : name
})
const list = computed(() => {
  const { rows, largest } = props.question
  return props.folded && largest ? { rows: rows.filter((r) => largest.slots.includes(r.slot)), rest: largest } : { rows, rest: null }
})
const sum = computed(() => (props.base === 'answered' ? props.question.sumAnswered : props.question.sumEveryone))
/** Running sums are of those who answered. */
const running = computed(() => props.cumulative && props.base === 'answered' && props.question.rows.some((r) => r.cumulative !== null))
const shown = (x: number | null | undefined) => (x === null || x === undefined ? '–' : props.proportions
  ? fixed(x / 100, props.study.decimals + 2) : fixed(x, props.study.decimals))
/** What a design says of the population, beside how many answered so. */
const estimated = computed(() => props.question.rows.some((r) => r.estimate))
const upTo = computed(() =>
  estimated.value ? 'topline.cumulative_estimated' : `topline.cumulative_${props.proportions ? 'share' : 'percent'}`)
const interval = (row: AnswerRow) => (row.estimate?.lower == null || row.estimate.upper === null ? '–'
  : t('topline.interval_of', { lower: shown(row.estimate.lower), upper: shown(row.estimate.upper) }))
const name = (row: AnswerRow) => (props.showCodes ? row.code || t('topline.blank') : row.label)
</script>

<template>
  <table class="figures tally">
    <thead>
      <tr>
        <th
          scope="col"
          class="answer"
        >
          {{ t('topline.answer') }}
        </th>
        <th
          scope="col"
          class="left bars"
        >
          <template v-if="reference">
            <span
              class="key"
              aria-hidden="true"
            />{{ t('topline.tick', { source }) }}
          </template>
          <span v-else class="visually-hidden">{{ t('topline.bars') }}</span>
        </th>
        <th scope="col">
          {{ t('topline.count') }}
        </th>
        <th
          scope="col"
          class="percent"
        ><template v-if="reading">{{ t(`topline.${proportions ? 'share_' : ''}of_${base}`) }}</template><button
          v-else
          type="button"
          class="base"
          :title="t('topline.switch_base')"
          data-test="base"
          @click="$emit('base')"
        >{{ t(`topline.${proportions ? 'share_' : ''}of_${base}`) }} <span aria-hidden="true">▾</span></button></th>
        <template v-if="estimated">
          <th scope="col">{{ t('topline.estimated') }}</th>
          <th scope="col">{{ t('topline.interval') }}</th>
        </template>
        <template v-if="running">
          <th scope="col">{{ t('topline.cumulative_count') }}</th>
          <th scope="col">{{ t(upTo) }}</th>
        </template>
        <template v-if="reference">
          <th scope="col" class="share" :title="source">{{ t('topline.share') }}</th>
          <th scope="col">{{ t('topline.points') }}</th>
        </template>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in list.rows" :key="row.slot">
        <th scope="row" class="answer">
          <button
            v-if="picked"
            type="button"
            class="pick"
            :aria-pressed="picked.includes(row.code)"
            :aria-label="t('topline.pick', { label: row.label })"
            :data-test="`pick-${row.label}`"
            @click="$emit('pick', row.code)"
          >{{ name(row) }}</button>
          <template v-else-if="showCodes">{{ name(row) }}</template>
          <InlineText
            v-else
            :text="row.label"
            :label="t('topline.edit_label', { label: row.label })"
            :maxlength="500"
            @save="$emit('relabel', row.slot, $event)"
          />
        </th>
        <td class="bars"><AnswerBar
          :percent="(estimated ? row.estimate?.percent : percent(row)) ?? 0"
          :share="reference?.get(row.code)?.share"
          :largest="largest"
        /></td>
        <td>{{ count(row.count) }}</td>
        <td>{{ shown(percent(row)) }}</td>
        <template v-if="estimated">
          <td data-test="estimated">{{ shown(row.estimate?.percent) }}</td>
          <td class="interval">{{ interval(row) }}</td>
        </template>
        <template v-if="running">
          <td>{{ count(row.cumulative ?? 0) }}</td>
          <td>{{ shown(estimated ? row.estimate?.cumulativePercent : row.cumulativePercent) }}</td>
        </template>
        <template v-if="reference">
          <td>{{ shown(100 * (reference.get(row.code)?.share ?? 0)) }}</td>
          <td>{{ signed(reference.get(row.code)?.points ?? 0, study.decimals) }}</td>
        </template>
      </tr>
      <tr v-if="list.rest" class="missing">
        <th scope="row" class="answer"><button
          type="button"
          class="act"
          aria-expanded="false"
          data-test="unfold-answers"
          @click="$emit('unfold')"
        >{{ t('topline.further_answers', { n: list.rest.n }, list.rest.n) }} <span aria-hidden="true">▾</span></button></th>
        <td class="bars"></td>
        <td>{{ list.rest.count === null ? '–' : count(list.rest.count) }}</td>
        <td>{{ shown(base === 'answered' ? list.rest.percentOfAnswered : list.rest.percentOfEveryone) }}</td>
        <template v-if="estimated"><td>{{ shown(list.rest.estimate) }}</td><td></td></template>
        <td v-if="running" colspan="2"></td>
        <td v-if="reference" colspan="2"></td>
      </tr>
      <template v-if="base === 'everyone'">
        <tr v-for="row in question.missingRows" :key="`m${row.slot}`" class="missing">
          <th scope="row" class="answer">{{ t('topline.missing_title_everyone') }}: {{ name(row) }}</th>
          <td class="bars"></td>
          <td>{{ count(row.count) }}</td>
          <td>{{ shown(percent(row)) }}</td>
          <td v-if="estimated" colspan="2"></td>
        </tr>
      </template>
    </tbody>
    <tfoot>
      <tr>
        <th scope="row" class="answer">{{ isSet ? t('topline.respondents') : t('topline.total') }}</th>
        <td class="bars"></td>
        <td>{{ count(base === 'answered' ? question.answered : question.everyone) }}</td>
        <td v-if="isSet"></td>
        <td v-else>{{ question.answered > 0 || base === 'everyone' ? shown(sum) : '–' }}</td>
        <td v-if="estimated" colspan="2"></td>
        <td v-if="running" colspan="2"></td>
        <template v-if="reference">
          <td>{{ shown(100 * (props.reference?.document?.ticks?.sum ?? 1)) }}</td>
          <td></td>
        </template>
      </tr>
    </tfoot>
  </table>
</template>

<style scoped>
.answer {
  min-width: 130px;
  max-width: 320px;
}
.tally tbody .answer { padding-top: 0; padding-bottom: 0; }
.answer :deep(.text), .pick { min-height: 24px; }
.bars {
  width: 34%;
}
.interval { white-space: nowrap; }
th.bars {
  font-size: 13.5px;
}
.pick {
  font: inherit;
  text-align: left;
  color: var(--teal);
  background: var(--tealwash);
  border: 0;
  border-bottom: 2px solid var(--teal);
  padding: 0 6px;
  cursor: pointer;
}
.pick[aria-pressed='true'] {
  color: var(--paper);
  background: var(--teal);
  font-weight: 600;
}
.key {
  display: inline-block;
  width: 3px;
  height: 13px;
  background: var(--mari);
  margin: 0 7px -2px 0;
}
.percent {
  white-space: nowrap;
}
.base {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
  border-bottom: 1px dotted var(--soft);
}
.base:hover {
  color: var(--teal);
}
@media (max-width: 640px) {
  .bars { display: none; }
  .answer { min-width: 90px; }
}
.share { color: var(--mari-text); }
.missing th, .missing td { color: var(--soft); }
</style>

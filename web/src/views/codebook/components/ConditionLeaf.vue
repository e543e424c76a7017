<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import type { CodebookQuestion, Condition } from '@/api/client'

/** One condition on one question, possibly turned into its contrary. */
const condition = defineModel<Condition>({ required: true })
const props = defineProps<{ questions: CodebookQuestion[] }>()
const { t } = useI18n()
const isNot = computed(() => condition.value.op === 'not')
const inner = computed<Condition>(() => (isNot.value ? (condition.value.of?.[0] ?? { op: 'answered', question: 0 }) : condition.value))
const question = computed(() => props.questions.find((q) => q.id === inner.value.question))
const answers = computed(() => (question.value?.answers ?? []).filter((a) => a.missing === '' && a.sameAs === null))
const isNumber = computed(() => ['discrete', 'continuous'].includes(question.value?.kind ?? ''))
const isListed = computed(() => ['single', 'ordered', 'discrete', 'choose_all'].includes(question.value?.kind ?? ''))

const put = (c: Condition, not = isNot.value) => (condition.value = not ? { op: 'not', of: [c] } : c)
function ask(id: number) {
  const q = props.questions.find((x) => x.id === id)
  const listed = ['single', 'ordered', 'discrete', 'choose_all'].includes(q?.kind ?? '')
  put(listed ? { op: 'any_of', question: id, answers: [] } : ['continuous'].includes(q?.kind ?? '') ? { op: 'between', question: id, from: 0 } : { op: 'answered', question: id })
}
function asOp(text: string) {
  const [op, not] = text.split(':') as [Condition['op'], string]
  const base: Condition = { op, question: inner.value.question ?? 0 }
  if (op === 'any_of') base.answers = inner.value.answers ?? []
  if (op === 'between') base.from = inner.value.from ?? 0
  put(base, not === 'not')
}
function toggle(slot: number) {
  const had = inner.value.answers ?? []
  put({ ...inner.value, answers: had.includes(slot) ? had.filter((s) => s !== slot) : [...had, slot] })
}
function limit(side: 'from' | 'to', text: string) {
  const x = Number(text.replace(',', '.').replace('−', '-'))
  const next: Condition = { ...inner.value }
  if (text.trim() === '' || Number.isNaN(x)) delete next[side]
  else next[side] = x
  put(next)
}
const shown = computed(() => `${inner.value.op}:${isNot.value ? 'not' : ''}`)
</script>

<template>
  <div class="leaf">
    <select :value="inner.question" :aria-label="t('condition.question')" data-test="condition-question" @change="ask(Number(($event.target as HTMLSelectElement).value))">
      <option v-for="q in questions" :key="q.id" :value="q.id">{{ q.number }} · {{ q.name }}</option>
    </select>
    <select :value="shown" :aria-label="t('condition.how')" data-test="condition-op" @change="asOp(($event.target as HTMLSelectElement).value)">
      <template v-if="isListed"><option value="any_of:">{{ t('condition.any_of') }}</option><option value="any_of:not">{{ t('condition.none_of') }}</option></template>
      <template v-if="isNumber"><option value="between:">{{ t('condition.between') }}</option><option value="between:not">{{ t('condition.not_between') }}</option></template>
      <option value="answered:">{{ t('condition.answered') }}</option>
      <option value="answered:not">{{ t('condition.not_answered') }}</option>
    </select>
    <span v-if="inner.op === 'any_of'" class="answers">
      <label v-for="a in answers" :key="a.slot"><input type="checkbox" :checked="(inner.answers ?? []).includes(a.slot)" @change="toggle(a.slot)" /> {{ a.label }}</label>
    </span>
    <span v-else-if="inner.op === 'between'">
      <input
        :value="inner.from ?? ''"
        inputmode="decimal"
        class="limit"
        :aria-label="t('condition.from')"
        data-test="condition-from"
        @change="limit('from', ($event.target as HTMLInputElement).value)"
      /> {{ t('condition.to') }}
      <input
        :value="inner.to ?? ''"
        inputmode="decimal"
        class="limit"
        :aria-label="t('condition.to')"
        data-test="condition-to"
        @change="limit('to', ($event.target as HTMLInputElement).value)"
      />
    </span>
  </div>
</template>

<style scoped>
.leaf { display: flex; flex-wrap: wrap; gap: 4px 10px; align-items: baseline; }
select, .limit { font: inherit; color: var(--ink); background: transparent; border: 0; border-bottom: 1px solid var(--rule); padding: 2px; max-width: 230px; }
select option { background: var(--sheet); color: var(--ink); }
.limit { width: 70px; text-align: right; }
.answers { display: flex; flex-wrap: wrap; gap: 2px 14px; }
input[type='checkbox'] { accent-color: var(--teal); }
</style>

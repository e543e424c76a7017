<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'

import type { CodebookQuestion, Condition } from '@/api/client'

/** One condition on one question, possibly turned into its contrary. */
const condition = defineModel<Condition>({ required: true })
const props = defineProps<{ questions: CodebookQuestion[] }>()
const { t } = useI18n()
const isNot = computed(() => condition.value.op === 'not')
const inner = computed<Condition>(() => (isNot.value ? (condition.value.of?.[0] ?? { op: 'answered', question: 0 }) : condition.value))
const question = computed(() => props.questions.find((q) => q.id === inner.value.question))
const answers = computed(() => (question.value?.answers ?? []).filter((a) => a.missing === '' && a.sameAs === null))
const asked = computed(() => props.questions.map((q) => ({ value: q.id, title: `${q.number} · ${q.name}` })))
/** Each way to ask, and its contrary. */
const texts: Record<string, [string, string]> = {
  any_of: ['any_of', 'none_of'],
  between: ['between', 'not_between'],
  answered: ['answered', 'not_answered'],
}
const ways = computed(() =>
  (question.value?.conditions ?? []).flatMap((op) =>
    (texts[op] ?? []).map((text, i) => ({ value: `${op}:${i ? 'not' : ''}`, title: t(`condition.${text}`) })),
  ),
)

const put = (c: Condition, not = isNot.value) => (condition.value = not ? { op: 'not', of: [c] } : c)
/** Another question is asked in the way that is most usual for it. */
function ask(id: number) {
  put(begun(props.questions.find((x) => x.id === id)?.conditions[0] ?? 'answered', id))
}
function begun(op: Condition['op'], id: number): Condition {
  const c: Condition = { op, question: id }
  if (op === 'any_of') c.answers = inner.value.question === id ? (inner.value.answers ?? []) : []
  if (op === 'between') c.from = inner.value.from ?? 0
  return c
}
function asOp(text: string) {
  const [op, not] = text.split(':') as [Condition['op'], string]
  put(begun(op, inner.value.question ?? 0), not === 'not')
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
    <v-autocomplete
      :model-value="inner.question ?? null"
      class="asked"
      :items="asked"
      :aria-label="t('condition.question')"
      :no-data-text="t('app.nothing_found')"
      data-test="condition-question"
      @update:model-value="$event && ask($event)"
    />
    <ChoiceMenu
      :model-value="shown"
      :items="ways"
      :label="t('condition.how')"
      small
      test="condition-op"
      @update:model-value="asOp"
    />
    <span v-if="inner.op === 'any_of'" class="answers">
      <v-checkbox-btn
        v-for="a in answers"
        :key="a.slot"
        inline
        :label="a.label"
        :model-value="(inner.answers ?? []).includes(a.slot)"
        @update:model-value="toggle(a.slot)"
      />
    </span>
    <template v-else-if="inner.op === 'between'">
      <v-text-field
        :model-value="inner.from ?? ''"
        inputmode="decimal"
        class="limit"
        :aria-label="t('condition.from')"
        data-test="condition-from"
        @change="limit('from', ($event.target as HTMLInputElement).value)"
      /> {{ t('condition.to') }}
      <v-text-field
        :model-value="inner.to ?? ''"
        inputmode="decimal"
        class="limit"
        :aria-label="t('condition.to')"
        data-test="condition-to"
        @change="limit('to', ($event.target as HTMLInputElement).value)"
      />
    </template>
  </div>
</template>

<style scoped>
.leaf { display: flex; flex-wrap: wrap; gap: 4px 10px; align-items: baseline; }
.asked { flex: none; width: 230px; }
.limit { flex: 0 0 80px; }
.limit :deep(input) { text-align: right; }
.answers { display: flex; flex-wrap: wrap; gap: 0 14px; }
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'
import InlineText from '@/components/InlineText.vue'

import type { Outlined, Question, QuestionEdit, Study } from '@/api/client'

/** The wording of a question, and under it whom it is about. */
const props = defineProps<{
  question: Question
  study: Study
  /** The choose-all set of which it is a column, and whether it is counted there alone. */
  set: Outlined | undefined
  folded: boolean
  /** It takes one line of the page. */
  line: boolean
  /** It has a short name, by which results call it. */
  named: boolean
}>()
defineEmits<{ edit: [change: QuestionEdit]; unfold: [] }>()
const { t } = useI18n()

/** How many are missing, and why where that was said: they are in no percent of those who answered. */
const missing = computed(() => {
  const q = props.question
  if (q.missing === 0) return t('topline.none_missing')
  const named = q.missingRows.filter((r) => r.count > 0)
  const why = named.length === 1 ? named[0]!.label : named.map((r) => `${r.label} ${count(r.count)}`).join(', ')
  return t('topline.missing', { n: count(q.missing) }) + (why ? ` (${why})` : '')
})
const subline = computed(() => {
  const q = props.question
  if (props.folded) return t('topline.answered', { n: count(q.answered) })
  if (q.summaries.length) return t('topline.kinds.summarised')
  const parts = [
    t('topline.asked', { n: count(q.everyone), units: props.study.units }),
    ...(q.asked === null ? [] : [t('topline.asked_of', { n: count(q.asked) })]),
    t('topline.answered', { n: count(q.answered) }),
  ]
  parts.push(
    missing.value,
    t(`topline.kinds.${q.kind}`),
  )
  if (props.line && q.different > 0) parts.push(t('topline.different', { n: count(q.different) }, q.different))
  if (props.line && q.examples.length) parts.push(t('topline.examples', { list: q.examples.join(', ') }))
  return parts.join(' · ')
})
</script>

<template>
  <h2 :class="{ line }"><InlineText
    :text="question.wording"
    :label="t('topline.edit_wording')"
    :maxlength="1000"
    @save="$emit('edit', { wording: $event })"
  /></h2>
  <p
    v-if="!question.damage"
    class="sub"
    :class="{ line }"
    :title="t('topline.read_as', { reason: question.kindReason })"
  >{{ subline }}<template v-if="question.countsInForce && question.summaries.length === 0">
    · <b>{{ t('topline.counts_in_force') }}</b>
  </template><template v-if="named && !folded"> · <InlineText
    :text="question.short"
    :shown="question.short || t('topline.no_short')"
    :label="t('topline.edit_short')"
    :maxlength="60"
    clearable
    @save="$emit('edit', { short: $event })"
  /></template><template v-if="set && folded">
    · <a :href="`#q${set.number}`">{{ t('topline.part_of', { n: set.number }) }}</a> · <button
      type="button"
      class="act"
      data-test="unfold"
      @click="$emit('unfold')"
    >{{ t('topline.unfold') }}</button>
  </template></p>
</template>

<style scoped>
h2 {
  font-size: 19px;
  font-weight: 500;
  line-height: 1.3;
}
h2.line {
  font-size: 16px;
}
.sub {
  color: var(--soft);
  font-size: 14px;
  margin: 1px 0 6px;
}
.sub.line {
  margin: 0;
  min-width: 0;
  overflow-wrap: anywhere;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'
import { useMethods } from '@/composables/useMethods'

import type { Answer, CodebookQuestion, DerivedEdit, Spec } from '@/api/client'

/** What is asked of the chosen questions together: one table of all, all crossed with the first,
 * and the two answers at one end of each counted together. */
const props = defineProps<{ questions: CodebookQuestion[] }>()
const emit = defineEmits<{ ask: [spec: Spec]; merge: [derived: DerivedEdit[]] }>()
const { t } = useI18n()

const asked = computed(() => props.questions.length > 1 && props.questions.every((q) => q.coded))
const keys = computed(() => props.questions.map((q) => String(q.id)))
/** The method that takes any number of questions, each by itself, or all crossed with the first. */
const { byName } = useMethods()
const ofMany = (first: string) => [...byName.value.values()].find((m) => m.more === 'others' && m.questions[0] === first)
function ask(first: string) {
  const m = ofMany(first)
  if (m) emit('ask', { method: m.name, version: m.version, questions: keys.value, settings: m.settings })
}

/** The answers that count, in their order. */
const proper = (q: CodebookQuestion) => q.answers.filter((a) => a.missing === '' && a.sameAs === null && a.code !== '')
const fewest = 3
const ends = computed(() => asked.value && props.questions.every((q) => q.kind === 'ordered' && proper(q).length >= fewest))
const none = ''
const which = computed(() => ['first', 'last'].map((value) => ({ value, title: t(`codebook.merge_ends.${value}`) })))
const group = (answers: Answer[]) => ({ label: answers.map((a) => a.label).join(' / '), answers: answers.map((a) => a.slot) })
function merge(end: string) {
  emit('merge', props.questions.map((q) => {
    const all = proper(q)
    const [two, rest] = end === 'first' ? [all.slice(0, 2), all.slice(2)] : [all.slice(-2), all.slice(0, -2)]
    const groups = [group(two), ...(rest.length > 1 ? [group(rest)] : [])]
    return { wording: t('derive.wording.merge', { wording: q.wording }), derivation: { rule: 'merge', sources: [q.id], groups } }
  }))
}
</script>

<template>
  <template v-if="asked">
    <button type="button" class="act" data-test="bulk-tabulate" @click="ask('question')">{{ t('codebook.tabulate') }}</button>
    <button
      type="button"
      class="act"
      data-test="bulk-cross"
      @click="ask('groups')"
    >{{ t('codebook.cross', { name: questions[0]!.name }) }}</button>
    <ChoiceMenu
      v-if="ends"
      :model-value="none"
      :items="which"
      :label="t('codebook.merge_of_each')"
      :placeholder="t('codebook.merge_of_each')"
      small
      test="bulk-merge"
      @update:model-value="merge"
    />
  </template>
</template>

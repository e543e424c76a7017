<script setup lang="ts">
import { lazily } from '@/app/later'

import type { Method, Outlined, Question, Spec, Study } from '@/api/client'
import type { View } from '../composables/useView'

/** What is opened under a question to ask something of it: which claim serves, which other question,
 * and the form itself. */
const AnalysisForm = lazily(() => import('./AnalysisForm.vue'))
const DesignStep = lazily(() => import('./DesignStep.vue'))
const OtherQuestion = lazily(() => import('./OtherQuestion.vue'))

defineProps<{
  question: Question
  study: Study
  view: View
  questions: Outlined[]
  joins: string[][]
  /** The method whose form is open. */
  method: Method | undefined
  seeksOther: boolean
  /** The keys of the other questions, and these with their names. */
  others: string[]
  named: { key: string; name: string }[]
  among: string
  subgroup: string
  picked: string[]
}>()
const emit = defineEmits<{
  design: [method: string]
  other: [ids: number[]]
  changed: [question: Question]
  ask: [spec: Spec, runNow: boolean]
  cancel: []
  picking: [codes: string[]]
}>()
const designing = defineModel<boolean>('designing', { required: true })
function designed(method: string) {
  designing.value = false
  emit('design', method)
}
</script>

<template>
  <DesignStep v-if="designing" :question="question" @open="designed" @cancel="designing = false" />
  <div v-if="method && seeksOther" class="beside">
    <div class="seek"><OtherQuestion
      :key="others.length"
      :method="method"
      :taken="[String(question.id), ...others]"
      :questions="questions"
      :joins="joins"
      @chosen="emit('other', $event)"
      @cancel="$emit('cancel')"
    /></div>
    <div class="margin" />
  </div>
  <AnalysisForm
    v-else-if="method"
    :key="method.name"
    :method="method"
    :question="question"
    :study="study"
    :subgroup="subgroup"
    :among="among"
    :others="named"
    :picked="picked"
    :view="view"
    @changed="$emit('changed', $event)"
    @ask="(spec, runNow) => emit('ask', spec, runNow)"
    @cancel="$emit('cancel')"
    @picking="emit('picking', $event)"
  />
</template>

<style scoped>
.seek { padding: 0 30px 0 78px; }
@media (max-width: 640px) { .seek { padding: 0 14px 0 40px; } }
</style>

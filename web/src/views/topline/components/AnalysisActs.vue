<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import WriteUp from '@/components/document/WriteUp.vue'

import type { Analysis, Method, Topic } from '@/api/client'

/** What can be done with something that was asked. */
const props = defineProps<{
  analysis: Analysis
  method: Method | undefined
  ticked: boolean
  tickable: boolean
  changing: boolean
  /** Other questions can be asked the same. */
  patterned: boolean
  topics: Map<string, Topic>
}>()
defineEmits<{ tick: []; change: []; select: []; remove: []; basis: []; fold: [] }>()
const working = defineModel<boolean>('working', { required: true })
const patterning = defineModel<boolean>('patterning', { required: true })
const explained = defineModel<string>('explained', { required: true })
const { t } = useI18n()
const isClaim = computed(() => props.analysis.number !== null)
const document = computed(() => props.analysis.document)
const hasWorking = computed(() => document.value?.blocks.some((b) => b.kind === 'working') ?? false)
</script>

<template>
  <p class="acts">
    <button
      v-if="hasWorking"
      type="button"
      class="act"
      :aria-expanded="working"
      data-test="show-working"
      @click="working = !working"
    >{{ working ? t('claim.hide_working') : t('claim.working') }}</button>
    <WriteUp v-if="document" :document="document" />
    <button
      v-if="tickable"
      type="button"
      class="act"
      :aria-pressed="ticked"
      data-test="tick"
      @click="$emit('tick')"
    >{{ ticked ? t('claim.ticked') : t('claim.tick') }}</button>
    <button
      v-if="isClaim || (method?.mode === 'describes' && method.inputs.length > 0)"
      type="button"
      class="act"
      :aria-expanded="changing"
      data-test="change-claim"
      @click="$emit('change')"
    >{{ t('claim.change') }}</button>
    <button
      v-else-if="method?.mode === 'both'"
      type="button"
      class="act"
      :aria-expanded="changing"
      data-test="test-it"
      @click="$emit('change')"
    >{{ t('topline.test_it') }}</button>
    <button
      v-if="patterned"
      type="button"
      class="act"
      :aria-expanded="patterning"
      data-test="pattern"
      @click="patterning = !patterning"
    >{{ t('claim.pattern') }}</button>
    <button
      v-if="analysis.estimable"
      type="button"
      class="act"
      data-test="count-here"
      @click="$emit('basis')"
    >{{ t(analysis.spec.unweighted ? 'claim.estimate_here' : 'claim.count_here') }}</button>
    <button
      v-if="topics.has(analysis.spec.method)"
      type="button"
      class="act"
      :aria-expanded="explained === analysis.spec.method"
      data-test="explain"
      @click="explained = explained === analysis.spec.method ? '' : analysis.spec.method"
    >{{ t('claim.what_is_this') }}</button>
    <button
      v-if="document"
      type="button"
      class="act"
      :aria-pressed="analysis.selected"
      data-test="select-analysis"
      @click="$emit('select')"
    >{{ analysis.selected ? t('topline.selected') : t('topline.select') }}</button>
    <button
      v-if="document"
      type="button"
      class="act"
      aria-expanded="true"
      data-test="fold"
      @click="$emit('fold')"
    >{{ t('claim.fold') }}</button>
    <button
      type="button"
      class="act"
      data-test="delete-claim"
      @click="$emit('remove')"
    >{{ isClaim ? t('claim.delete') : t('topline.take_away') }}</button>
  </p>
</template>

<style scoped>
.acts { margin: 12px 0 4px; }
</style>

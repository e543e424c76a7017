<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { count, exact } from '@/app/format'

import ChoiceMenu from './ChoiceMenu.vue'

import type { Check, CheckedQuestion, Remedy } from '@/api/client'

/** What each question looks like, with the kind to overrule and the remedies to press. */
const props = defineProps<{ check: Check; skippable?: boolean; fixed?: boolean; curable?: (remedy: Remedy) => boolean }>()
const emit = defineEmits<{
  kind: [q: CheckedQuestion, kind: CheckedQuestion['kind']]
  remedy: [q: CheckedQuestion, remedy: Remedy]
  skip: [q: CheckedQuestion]
  rebuild: [id: number]
}>()
const { t } = useI18n()
/** A long questionnaire is shown a part at a time, or only where something was noticed. */
const step = 200
const most = ref(step)
const onlyNoticed = ref(false)
const wanted = computed(() => (onlyNoticed.value ? props.check.questions.filter((q) => q.suspicions.length > 0) : props.check.questions))
/** The question that was called a count of respondents: that changes every figure, so it
 * is asked about first. */
const asked = ref('')
function choose(q: CheckedQuestion, kind: CheckedQuestion['kind']) {
  if (kind === q.kind) return
  if (kind === 'count') asked.value = q.name
  else emit('kind', q, kind)
}
function countBy(q: CheckedQuestion) {
  asked.value = ''
  emit('remedy', q, { action: 'counts', label: '', code: '', other: '', reason: '', kind: 'count', separator: '' })
}
const rows = computed(() => wanted.value.slice(0, most.value))
const shown = (x: number | null) => (x === null ? '' : exact(x))
const offered = (remedy: Remedy | null): remedy is Remedy => remedy !== null && (props.curable?.(remedy) ?? true)
</script>

<template>
  <p v-if="check.questions.length > step" class="acts long">
    <v-checkbox-btn v-model="onlyNoticed" inline :label="t('check.only_noticed')" />
  </p>
  <div class="scroll">
    <table class="figures check" data-test="check-table">
      <thead>
        <tr>
          <th scope="col">№</th>
          <th scope="col" class="left">{{ t('check.question') }}</th>
          <th scope="col" class="left">{{ t('check.kind') }}</th>
          <th scope="col">{{ t('check.answered') }}</th>
          <th scope="col">{{ t('check.missing') }}</th>
          <th scope="col">{{ t('check.different') }}</th>
          <th scope="col">{{ t('check.smallest') }}</th>
          <th scope="col">{{ t('check.largest') }}</th>
          <th scope="col" class="left">{{ t('check.noticed') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="q in rows" :key="q.name">
          <td>{{ q.number }}</td>
          <th scope="row" class="left name">{{ q.name }}<div v-if="q.wording !== q.name" class="soft wording">{{ q.wording }}</div></th>
          <td class="left">
            <template v-if="fixed">{{ t(`topline.kinds.${q.kind}`) }}</template>
            <ChoiceMenu
              v-else
              :model-value="q.kind"
              :items="q.mayBecome.map((value) => ({ value, title: t(`topline.kinds.${value}`) }))"
              :label="`${q.name}: ${t('check.kind')} (${q.kindReason})`"
              small
              @update:model-value="choose(q, $event)"
            />
            <div class="soft reason">{{ q.kindReason }}</div>
          </td>
          <td>{{ q.damage ? '–' : count(q.answered) }}</td>
          <td>{{ q.damage ? '–' : count(q.missing) }}</td>
          <td>{{ q.damage ? '–' : count(q.different) }}</td>
          <td>{{ shown(q.smallest) }}</td>
          <td>{{ shown(q.largest) }}</td>
          <td class="left noticed">
            <p v-if="q.damage" data-test="damaged">
              <span class="caution">{{ t('app.caution') }}</span> {{ q.damage.text }}
              <button type="button" class="act" @click="$emit('rebuild', q.damage.questionId)">{{ t('topline.rebuild') }}</button>
            </p>
            <p v-if="asked === q.name" role="alert" data-test="ask-counts">
              {{ t('check.ask_counts', { name: q.name }) }}
              <button type="button" class="act" @click="countBy(q)">{{ t('check.do_counts') }}</button>{{ ' ' }}
              <button type="button" class="act" @click="asked = ''">{{ t('check.leave_counts') }}</button>
            </p>
            <p v-for="(s, i) in q.suspicions" :key="i">{{ s.text }} <button
              v-if="offered(s.remedy)"
              type="button"
              class="act"
              @click="$emit('remedy', q, s.remedy)"
            >{{ s.remedy.label }}</button></p>
            <button
              v-if="skippable"
              type="button"
              class="act leave"
              :aria-label="t('check.skip', { name: q.name })"
              @click="$emit('skip', q)"
            >{{ t('check.skip_short') }}</button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-if="wanted.length > rows.length" class="acts long">
    <span class="soft">{{ t('check.part', { n: count(rows.length), of: count(wanted.length) }) }}</span>
    <button type="button" class="act" @click="most += step">{{ t('check.more', { n: step }) }}</button>
    <button type="button" class="act" @click="most = wanted.length">{{ t('check.all') }}</button>
  </p>
</template>

<style scoped>
.scroll { overflow-x: auto; }
.long { margin: 8px 0; }
.check td, .check tbody th { padding-top: 5px; padding-bottom: 5px; border-bottom: 1px solid var(--hair); }
.check thead th { white-space: nowrap; }
.name { min-width: 150px; max-width: 230px; overflow-wrap: anywhere; line-height: 1.3; }
.wording { font-size: 13.5px; }
.reason { font-size: 12.8px; line-height: 1.25; max-width: 170px; }
.noticed { min-width: 210px; font-size: 14px; line-height: 1.35; }
.noticed p { margin-bottom: 3px; }
.leave { font-weight: 400; font-size: 13.5px; color: var(--soft); }
.leave:hover { color: var(--teal); }
</style>

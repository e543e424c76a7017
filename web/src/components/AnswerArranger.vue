<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'
import CellField from '@/components/CellField.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import { kindsHere } from '@/app/kinds'

import { sorted } from './arranging'

import type { Answer, Kind, QuestionEdit } from '@/api/client'
import type { Order, Plain } from './arranging'

/** Order, labels, scores and counting of a question's answers; every change is saved at
 * once. With counts the answers can also be sorted by them. */
const props = defineProps<{ question: { kind: Kind; mayBecome: Kind[]; answers: Answer[] }; counts?: Map<number, number> }>()
const emit = defineEmits<{ edit: [change: QuestionEdit] }>()
const { t } = useI18n()
const dragged = ref<number | null>(null)
const rowsElement = ref<HTMLElement | null>(null)

const plainAnswers = computed(() =>
  props.question.answers.map(({ slot, label, missing, sameAs, score }) => ({ slot, label, missing, sameAs, score })),
)
const kinds = computed(() => kindsHere(props.question).map((k) => ({ value: k, title: t(`topline.kinds.${k}`) })))

function save(answers: Plain[]) {
  emit('edit', { answers })
}

/** A moved row loses the focus when its new place comes from the server; it is given back. */
let refocusOn = ''
watch(
  () => props.question.answers,
  () => {
    if (refocusOn) rowsElement.value?.querySelector<HTMLElement>(refocusOn)?.focus()
    refocusOn = ''
  },
  { flush: 'post' },
)

function move(slot: number, to: number, refocus?: string) {
  const answers = [...plainAnswers.value]
  const from = answers.findIndex((a) => a.slot === slot)
  const [moved] = answers.splice(from, 1)
  if (!moved || to < 0 || to > answers.length) return
  answers.splice(to, 0, moved)
  if (refocus) refocusOn = `[data-slot="${slot}"] ${refocus}`
  save(answers)
}

function change(slot: number, part: Partial<Plain>) {
  save(plainAnswers.value.map((a) => (a.slot === slot ? { ...a, ...part } : a)))
}

/** What an answer counts as, as one value for the list: itself, missing, or another answer. */
const PROPER = 'proper'
const MISSING = 'missing'
const countsAs = (a: Answer) => (a.sameAs !== null ? `same:${a.sameAs}` : a.missing !== '' ? MISSING : PROPER)
const options = (a: Answer) => [
  ...(a.slot === 0 ? [] : [{ value: PROPER, title: t('arrange.proper') }]),
  { value: MISSING, title: t('arrange.missing') },
  ...(a.slot === 0
    ? []
    : props.question.answers
        .filter((o) => o.slot !== a.slot && o.sameAs === null && o.slot !== 0)
        .map((o) => ({ value: `same:${o.slot}`, title: t('arrange.same', { label: o.label }) }))),
]

function setCountsAs(a: Answer, value: string) {
  if (value === PROPER) change(a.slot, { missing: '', sameAs: null })
  else if (value === MISSING) change(a.slot, { missing: a.label, sameAs: null })
  else change(a.slot, { missing: '', sameAs: Number(value.slice('same:'.length)) })
}

const sort = (by: Order) => save(sorted(plainAnswers.value, by, new Map(props.question.answers.map((a) => [a.slot, a.code])), props.counts))

function relabel(a: Answer, typed: string, field: HTMLInputElement) {
  const label = typed.trim()
  if (label === '') field.value = a.label
  else if (label !== a.label) change(a.slot, { label })
}

function score(a: Answer, typed: string, field: HTMLInputElement) {
  const text = typed.trim().replace(',', '.').replace('−', '-')
  const score = text === '' ? null : Number(text)
  if (score !== null && !Number.isFinite(score)) field.value = String(a.score ?? '')
  else if (score !== a.score) change(a.slot, { score })
}

function reason(a: Answer, typed: string, field: HTMLInputElement) {
  const missing = typed.trim()
  if (missing === '') field.value = a.missing
  else if (missing !== a.missing) change(a.slot, { missing })
}
</script>

<template>
  <div class="arranger">
    <p class="soft small">{{ t('arrange.hint') }}</p>
    <p class="acts small">
      <span class="soft">{{ t('arrange.sort') }}</span>
      <button v-if="counts" type="button" class="act" @click="sort('count')">{{ t('arrange.by_count') }}</button>
      <button type="button" class="act" @click="sort('label')">{{ t('arrange.by_label') }}</button>
      <button type="button" class="act" @click="sort('code')">{{ t('arrange.by_code') }}</button>
      <span class="kind">{{ t('arrange.kind') }} <ChoiceMenu
        :model-value="question.kind"
        :items="kinds"
        :label="t('arrange.kind')"
        small
        @update:model-value="emit('edit', { kind: $event })"
      /></span>
    </p>
    <table class="figures">
      <thead>
        <tr>
          <th scope="col"><span class="visually-hidden">{{ t('arrange.sort') }}</span></th>
          <th scope="col" class="left">{{ t('arrange.label') }}</th>
          <th scope="col" class="left">{{ t('arrange.code') }}</th>
          <th v-if="counts" scope="col">{{ t('topline.count') }}</th>
          <th scope="col" class="left">{{ t('arrange.as') }}</th>
          <th scope="col" class="left">{{ t('arrange.reason') }}</th>
          <th v-if="question.kind === 'ordered'" scope="col">{{ t('arrange.score') }}</th>
        </tr>
      </thead>
      <tbody ref="rowsElement">
        <tr
          v-for="(a, i) in question.answers"
          :key="a.slot"
          :data-slot="a.slot"
          :class="{ dragged: dragged === a.slot }"
          @dragover.prevent
          @drop.prevent="dragged !== null && move(dragged, i)"
          @keydown.alt.up.prevent="move(a.slot, i - 1, 'input')"
          @keydown.alt.down.prevent="move(a.slot, i + 1, 'input')"
        >
          <td class="handles">
            <span
              class="grip"
              draggable="true"
              aria-hidden="true"
              @dragstart="dragged = a.slot"
              @dragend="dragged = null"
            >⠿</span>
            <button
              type="button"
              class="arrow up"
              :disabled="i === 0"
              :aria-label="t('arrange.up', { label: a.label })"
              @click="move(a.slot, i - 1, '.up')"
            >↑</button>
            <button
              type="button"
              class="arrow down"
              :disabled="i === question.answers.length - 1"
              :aria-label="t('arrange.down', { label: a.label })"
              @click="move(a.slot, i + 1, '.down')"
            >↓</button>
          </td>
          <td class="left"><CellField
            :value="a.label"
            :label="t('topline.edit_label', { label: a.label })"
            maxlength="300"
            @change="(text, field) => relabel(a, text, field)"
          /></td>
          <td class="left soft">{{ a.code || t('topline.blank') }}</td>
          <td v-if="counts">{{ counts.has(a.slot) ? count(counts.get(a.slot) ?? 0) : '' }}</td>
          <td class="left">
            <ChoiceMenu
              :model-value="countsAs(a)"
              :items="options(a)"
              :label="`${a.label}: ${t('arrange.as')}`"
              small
              @update:model-value="setCountsAs(a, $event)"
            />
          </td>
          <td class="left"><CellField
            v-if="a.missing !== ''"
            :value="a.missing"
            :label="`${a.label}: ${t('arrange.reason')}`"
            maxlength="60"
            @change="(text, field) => reason(a, text, field)"
          /></td>
          <td v-if="question.kind === 'ordered'"><CellField
            v-if="a.missing === '' && a.sameAs === null"
            inputmode="decimal"
            class="score"
            :value="a.score ?? ''"
            :placeholder="t('arrange.score_default')"
            :label="`${a.label}: ${t('arrange.score')}`"
            @change="(text, field) => score(a, text, field)"
          /></td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.arranger {
  margin-top: 6px;
}
.acts {
  margin: 4px 0 8px;
}
.kind {
  margin-left: auto;
  color: var(--soft);
}
.handles {
  white-space: nowrap;
  width: 92px;
}
.grip {
  cursor: grab;
  color: var(--soft);
  padding: 0 7px 0 0;
}
.arrow {
  border: 0;
  background: none;
  color: var(--teal);
  font: inherit;
  font-weight: 600;
  padding: 0 6px;
  cursor: pointer;
}
.arrow:disabled {
  color: var(--rule);
}
.score {
  width: 70px;
  text-align: right;
}
.dragged {
  opacity: 0.5;
}
input {
  font: inherit;
  font-size: 15px;
  color: var(--ink);
  background: transparent;
  border: 0;
  border-bottom: 1px solid var(--rule);
  padding: 1px 2px;
  width: 100%;
}
input:focus {
  border-bottom-color: var(--teal);
}
</style>

<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import CellField from '@/components/CellField.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAnswer } from '@/composables/useAnswer'
import { useAttempt } from '@/composables/useAttempt'

import SharesTable from './SharesTable.vue'
import ShelfFit from './ShelfFit.vue'

import type { Question, SharesCheck, SharesEntry, SharesFit, Study } from '@/api/client'
import type { View } from '../composables/useView'

/** A figure for each answer: typed in the answers' own rows, pasted with or without names,
 * and checked as it is entered. */
const props = defineProps<{ question: Question; study: Study; settings: Record<string, unknown>; countsOnly: boolean; view: View }>()
const emit = defineEmits<{ set: [name: string, value: unknown]; last: []; changed: [question: Question] }>()
const { t } = useI18n()

interface Shares {
  scale: SharesEntry['scale']
  rescale?: boolean
  figures?: { code: string; figure: string }[]
}
const shares = computed(() => props.settings['shares'] as Shares)
const equal = computed(() => shares.value.scale === 'equal')
const rescale = computed(() => shares.value.rescale === true)
const figures = computed({
  get: () => Object.fromEntries((shares.value.figures ?? []).map((f) => [f.code, f.figure])),
  set: (byCode: Record<string, string>) =>
    emit('set', 'shares.figures', Object.entries(byCode).filter(([, figure]) => figure !== '').map(([code, figure]) => ({ code, figure }))),
})
const entry = computed<SharesEntry>(() => ({ scale: shares.value.scale, rescale: rescale.value, figures: shares.value.figures ?? [] }))
const { answer: check, error } = useAnswer(`shares/${props.study.id}/${props.question.id}`, () => entry.value,
  (e, signal) => api.checkShares(props.study.id, props.question.id, e, signal))
/** Rescaling is agreed to for the figures as they stand; other figures ask again. */
watch([() => JSON.stringify(shares.value.figures ?? []), () => shares.value.scale], () => rescale.value && setRescale(false))
const setRescale = (to: boolean) => emit('set', 'shares.rescale', to)

const mostShown = 3
const wrong = computed(() => (check.value?.problems ?? []).filter((p) => p.kind !== 'no_figure'))
const lacking = computed(() => {
  const codes = new Set((check.value?.problems ?? []).filter((p) => p.kind === 'no_figure').map((p) => p.code))
  return props.question.rows.filter((r) => codes.has(r.code)).map((r) => `“${r.label}”`)
})

const shelf = ref(false)
/** What is taken keeps where it comes from, and which version that was. */
function taken(fit: SharesFit) {
  const { id, version, title, kind, date } = fit.set
  const figures = fit.answers.filter((a) => a.figure !== '').map(({ code, figure }) => ({ code, figure }))
  const source = { title, kind, ...(date ? { date } : {}), shelf: { set: id, version } }
  emit('set', 'shares', { ...shares.value, scale: fit.scale, rescale: false, figures, source })
  shelf.value = false
}

/** An answer that nobody chose belongs to the question all the same. */
const { error: notAdded, attempt } = useAttempt()
const addAnswer = (label: string) =>
  attempt(async () => {
    const { id, version } = props.question
    const changed = await api.editQuestion(props.study.id, id, version, { newAnswer: { code: label, label } }, props.view)
    emit('changed', changed)
    await nextTick()
  })
/** Figures that do not reach their total may lack an answer, whose figure is the rest. */
const lackingName = ref<string | null>(null)
const rest = computed(() => (check.value?.gap ?? '').replace(/^[-−]/, ''))
async function addLacking() {
  const name = lackingName.value?.trim() ?? ''
  const figure = rest.value
  if (name === '' || !(await addAnswer(name))) return
  lackingName.value = null
  figures.value = { ...figures.value, [name]: figure }
}
async function addNamed(name: string) {
  if (await addAnswer(name)) await usePasted()
}

const pasting = ref(false)
const pasted = ref('')
const { error: notRead, attempt: readPasted } = useAttempt()
const pastedProblems = ref<SharesCheck['problems']>([])
/** Whose the figures became that were pasted without names. */
const placed = ref<{ labels: string[]; left: number } | null>(null)
function byPlace(labels: string[], left: number) {
  placed.value = { labels, left }
  emit('set', 'shares.placed', true)
}
function pasteList(text: string) {
  pasted.value = text
  pasting.value = true
  void usePasted()
}

async function usePasted() {
  placed.value = null
  const body = { scale: shares.value.scale, rescale: rescale.value, pasted: pasted.value }
  const read = await readPasted(() => api.checkShares(props.study.id, props.question.id, body))
  if (!read) return
  const found = read.value
  pastedProblems.value = found.problems.filter((p) => p.code === null && p.kind !== 'sum_off')
  emit('set', 'shares.placed', false)
  figures.value = Object.fromEntries(found.rows.filter((r) => r.figure !== '').map((r) => [r.code, r.figure]))
  pasting.value = pastedProblems.value.length > 0
}
</script>

<template>
  <SharesTable
    v-model="figures"
    :question="question"
    :check="check"
    :equal="equal"
    @list="pasteList"
    @placed="byPlace"
    @last="$emit('last')"
  />
  <p v-if="placed" class="problem" role="status" data-test="placed">
    {{ t('claim.placed', { n: placed.labels.length, first: placed.labels[0] ?? '',
      last: placed.labels.at(-1) ?? '' }, placed.labels.length) }}
    <template v-if="placed.left">{{ t('claim.placed_left', { n: placed.left }, placed.left) }}</template>
  </p>
  <p v-if="!equal" class="acts small">
    <button
      type="button"
      class="act"
      :aria-expanded="pasting"
      data-test="paste-list"
      @click="pasting = !pasting"
    >{{ t('claim.paste') }}</button>
    <button
      type="button"
      class="act"
      :aria-expanded="shelf"
      data-test="from-shelf"
      @click="shelf = !shelf"
    >{{ t('shares.from_shelf') }}</button>
  </p>
  <ShelfFit v-if="shelf && !equal" :question="question" :study="study" :counts-only="countsOnly" @take="taken" @cancel="shelf = false" />
  <div v-if="pasting" class="paste">
    <v-textarea v-model="pasted" :label="t('claim.paste_label')" rows="6" spellcheck="false" data-test="pasted" />
    <p v-for="(p, i) in pastedProblems" :key="i" class="problem">
      {{ p.text }} <button
        v-if="p.name"
        type="button"
        class="act"
        data-test="add-named"
        @click="addNamed(p.name)"
      >{{ t('claim.add_named', { name: p.name }) }}</button>
    </p>
    <v-btn color="primary" :disabled="pasted.trim() === ''" data-test="match" @click="usePasted">{{ t('claim.paste_use') }}</v-btn>
  </div>
  <ErrorNote v-if="error ?? notAdded ?? notRead" :error="(error ?? notAdded ?? notRead)!" />
  <div
    v-if="check && !equal"
    class="state"
    role="status"
    data-test="shares-state"
  >
    <p v-if="rescale && check.usable">
      {{ t('claim.rescaled', { sum: check.sum }) }} <button
        type="button"
        class="act"
        @click="setRescale(false)"
      >
        {{ t('claim.rescale_back') }}
      </button>
    </p>
    <p v-if="!rescale && check.usable && check.gap && check.gap !== '0'">
      {{ t('claim.rounded', { sum: check.sum, target: check.target ?? '' }) }}
    </p>
    <p
      v-for="(p, i) in wrong.slice(0, mostShown)"
      :key="i"
      class="problem"
    >
      {{ p.text }}
      <button
        v-if="p.kind === 'sum_off' && check.canRescale"
        type="button"
        class="act"
        data-test="rescale"
        @click="setRescale(true)"
      >{{ t('claim.rescale', { target: check.target ?? '' }) }}</button>{{ ' ' }}
      <button
        v-if="p.kind === 'sum_off' && check.gap?.startsWith('-') && lackingName === null"
        type="button"
        class="act"
        data-test="add-lacking"
        @click="lackingName = ''"
      >{{ t('claim.add_lacking') }}</button>
      <span v-if="p.kind === 'sum_off' && lackingName !== null" class="lacking" @keydown.enter.stop.prevent="addLacking">
        <CellField
          live
          :value="lackingName"
          :label="t('claim.add_lacking_name')"
          :placeholder="t('claim.add_lacking_name')"
          maxlength="200"
          data-test="lacking-name"
          @change="lackingName = $event"
        />
        <button
          type="button"
          class="act"
          data-test="lacking-add"
          @click="addLacking"
        >{{ t('claim.add_lacking_do', { gap: rest }) }}</button>
      </span>
    </p>
    <p v-if="wrong.length > mostShown" class="soft">{{ t('claim.and_more', { n: wrong.length - mostShown }) }}</p>
    <p v-if="lacking.length" class="soft">
      {{ t('claim.lacking', { list: lacking.slice(0, 2 * mostShown).join(', ') }) }}
      <template v-if="lacking.length > 2 * mostShown">{{ t('claim.and_more', { n: lacking.length - 2 * mostShown }) }}</template>
    </p>
  </div>
</template>

<style scoped>
.paste { display: grid; gap: 6px; max-width: 480px; justify-items: start; margin: 6px 0; }
.paste :deep(.v-textarea) { width: 100%; }
.problem { border-left: 3px double var(--ink); padding-left: 10px; margin: 4px 0; }
.state { margin: 8px 0; }
.problem .act + .act { margin-left: 18px; }
.lacking { display: inline-flex; gap: 10px; align-items: baseline; }
</style>

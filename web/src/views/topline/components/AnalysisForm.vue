<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { presetKey, presets } from '@/app/presets'
import ChangedMeanwhile from '@/components/ChangedMeanwhile.vue'
import AskSentence from '@/components/asking/AskSentence.vue'
import { copyOf, useSettings } from '@/components/asking/useSettings'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAnswer } from '@/composables/useAnswer'

import { useDraft } from '../composables/useDraft'
import FiguresInput from './FiguresInput.vue'

import type { Analysis, Change, Group, Method, Question, Spec, SpecProblem, Study } from '@/api/client'
import type { View } from '../composables/useView'

/** What is asked is a sentence to complete. The server says what is still lacking, and
 * which entries it would rather ask about. */
const props = defineProps<{
  method: Method
  question: Question
  study: Study
  /** Whom it is about, in words, and the key of the subgroup; '' for everyone. */
  subgroup: string
  among: string
  /** What is being changed. */
  analysis?: Analysis
  /** Of several questions, the others with their names. */
  others?: { key: string; name: string }[]
  /** The answers that are pressed in the tally. */
  picked: string[]
  /** How the question is shown, for what an edit of it answers. */
  view: View
}>()
const emit = defineEmits<{ changed: [question: Question]; ask: [spec: Spec, runNow: boolean]; cancel: []; picking: [codes: string[]] }>()
const { t } = useI18n()

const start = computed(() => props.analysis?.spec.settings ?? props.method.settings)
const draft = useDraft(props.study.id, props.question.id, props.analysis ? String(props.analysis.id) : props.method.name)
const filled = props.analysis ? undefined : presets.get(presetKey(props.question.id, props.method.name))
presets.delete(presetKey(props.question.id, props.method.name))
const {
  settings,
  get,
  set,
  merge,
  inputs,
  lines,
  optionsOf,
} = useSettings(() => props.method, filled ? { ...start.value, ...filled.settings } : (draft.found ?? start.value))
const fromDraft = ref(!filled && draft.found !== null)
function startAnew() {
  settings.value = copyOf(start.value)
  draft.drop()
  fromDraft.value = false
}

const units = computed(() =>
  props.subgroup ? t('claim.units_in', { units: props.study.units, subgroup: props.subgroup }) : props.study.units,
)
const nameOf = (q: { short: string; wording: string }) => q.short || `“${q.wording}”`
const names = computed(() => ({
  units: units.value,
  question: nameOf(props.question),
  other: props.others?.[0]?.name ?? '',
  third: props.others?.[1]?.name ?? '',
}))

/** Answers are picked in the tally above; the settings name them by code. */
const categories = computed(() => inputs.value.find((i) => i.kind === 'categories'))
const pickedLabels = computed(() => props.question.rows.filter((r) => props.picked.includes(r.code)).map((r) => r.label))
onMounted(() => {
  const codes = categories.value ? get(categories.value.name) : []
  emit('picking', Array.isArray(codes) ? (codes as string[]) : [])
})
watch(() => props.picked, (codes) => categories.value && set(categories.value.name, [...codes]))

const spec = computed<Spec>(() => {
  const questions = [String(props.question.id), ...(props.others ?? []).map((o) => o.key)]
  const of = props.analysis ? (props.analysis.spec.subgroup ?? '') : props.among
  return { method: props.method.name, version: props.method.version, questions, settings: settings.value, ...(of ? { subgroup: of } : {}) }
})

const { answer, settled, error } = useAnswer(
  `spec/${props.study.id}`, () => spec.value, (asked, signal) => api.checkSpec(props.study.id, asked, signal), 180,
)
const problems = computed(() => (settled.value ? (answer.value?.problems ?? null) : null))
const groups = computed<Group[]>((before) => (answer.value?.groups.length ? answer.value.groups : (before ?? [])))
/** What the sentence states as it stands, with the answers by their names. */
const statement = computed(() => (settled.value ? (answer.value?.statement ?? '') : ''))
watch(settings, (s) => draft.keep(s), { deep: true })
if (filled) draft.keep(settings.value) // what was filled in outlives a reload

/** A doubt is settled for the entries as they stand. */
const kept = ref(new Set<string>())
const doubtKey = (p: SpecProblem) => `${p.code} ${p.text}`
const asked = computed(() => (problems.value ?? []).filter((p) => p.remedy !== null && !(p.doubt && kept.value.has(doubtKey(p)))))
const lacking = computed(() => (problems.value ?? []).filter((p) => !p.doubt && p.remedy === null))
/** A test is stated once all is chosen that it rests on; without, the same settings describe. */
const unsaid = computed(() => props.method.mode !== 'describes' && !(answer.value?.tests ?? false))
const ready = computed(() => problems.value !== null && !unsaid.value && lacking.value.length === 0 && asked.value.length === 0)
/** The figures' own table says what is wrong with them. */
const hint = computed(() => lacking.value.find((p) => !p.pointer.startsWith('/settings/shares/figures'))?.text ?? '')
const hasFigures = computed(() => props.method.inputs.find((i) => i.kind === 'figures'))
const figuresReady = computed(() => !lacking.value.some((p) => p.pointer.startsWith('/settings/shares/figures')))

const submitButton = useTemplateRef<{ $el: HTMLElement }>('go')
/** A menu that is open takes Escape for itself. */
function escape(event: KeyboardEvent) {
  if ((event.target as HTMLElement).getAttribute('aria-expanded') !== 'true') emit('cancel')
}
/** Enter in a blank moves nothing and states nothing; with Ctrl or Cmd it does. */
function enter(event: KeyboardEvent) {
  if ((event.target as HTMLElement).tagName !== 'INPUT') return
  event.preventDefault()
  if (event.ctrlKey || event.metaKey) submit(true)
}
function submit(runNow: boolean) {
  if (ready.value) emit('ask', spec.value, runNow)
}
</script>

<template>
  <div class="beside">
    <form
      class="ask"
      data-test="claim-form"
      @submit.prevent="submit(true)"
      @keydown.esc="escape"
      @keydown.enter="enter"
    >
      <ChangedMeanwhile v-if="analysis" :state="analysis.version" />
      <p v-if="fromDraft" class="soft small" role="status">{{ t('claim.from_draft') }} <button
        type="button"
        class="act"
        data-test="start-anew"
        @click="startAnew"
      >{{ t('claim.start_anew') }}</button></p>
      <AskSentence
        :method="method"
        :inputs="inputs"
        :lines="lines"
        :names="names"
        :picked="pickedLabels"
        :groups="groups"
        :value-of="get"
        :options-of="optionsOf"
        @set="set"
      />
      <FiguresInput
        v-if="hasFigures"
        :question="question"
        :study="study"
        :settings="settings"
        :counts-only="!method.inputs.some((i) => i.name === 'shares.scale')"
        :view="view"
        @set="set"
        @changed="$emit('changed', $event)"
        @last="submitButton?.$el.focus()"
      />
      <ErrorNote v-if="error" :error="error" />
      <p v-for="p in asked" :key="doubtKey(p)" class="problem" role="alert" data-test="ask-level">
        {{ p.text }}
        <button
          v-if="p.remedy"
          type="button"
          class="act"
          data-test="usual-level"
          @click="merge(p.remedy.change as Change)"
        >{{ p.remedy.label }}</button>{{ ' ' }}
        <button
          v-if="p.doubt"
          type="button"
          class="act"
          @click="kept.add(doubtKey(p))"
        >{{ t('claim.keep_level') }}</button>
      </p>
      <p v-if="hint && figuresReady" class="soft" data-test="hint">{{ hint }}</p>
      <p v-if="statement && !unsaid" class="soft" role="status" data-test="states">{{ t('claim.states', { statement }) }}</p>
      <p class="acts submit">
        <v-btn
          v-if="analysis && analysis.number !== null"
          ref="go"
          type="submit"
          variant="flat"
          color="primary"
          :disabled="!ready"
          data-test="save-claim"
        >{{ t('claim.save') }}</v-btn>
        <template v-else>
          <v-btn
            ref="go"
            type="submit"
            variant="flat"
            color="primary"
            :disabled="!ready"
            data-test="state-run"
          >{{ t(method.mode === 'describes' ? 'claim.describe' : 'claim.state_run') }}</v-btn>
          <button
            v-if="method.mode !== 'describes'"
            type="button"
            class="act"
            :disabled="!ready"
            data-test="state-later"
            @click="submit(false)"
          >{{ t('claim.state') }}</button>
        </template>
        <button type="button" class="act" @click="$emit('cancel')">{{ t('app.cancel') }}</button>
      </p>
    </form>
    <div class="margin" />
  </div>
</template>

<style scoped>
.ask { margin: 6px 30px 14px 78px; border-left: 3px solid var(--teal); padding: 2px 0 4px 20px; }
@media (max-width: 640px) { .ask { margin: 6px 14px 14px; padding-left: 12px; } }
.problem { border-left: 3px double var(--ink); padding-left: 10px; margin: 4px 0; }
.submit { margin-top: 12px; align-items: center; }
</style>

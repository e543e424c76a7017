<script setup lang="ts">
import { computed, onMounted, reactive, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import ErrorNote from '@/parts/ErrorNote.vue'
import SentenceBlank from '@/parts/SentenceBlank.vue'
import SentenceChoice from '@/parts/SentenceChoice.vue'

import { useDraft } from '../composables/useDraft'
import { useSharesCheck } from '../composables/useSharesCheck'
import SharesTable from './SharesTable.vue'

import type { Claim, Mode, Question, ReferenceKind, Role, SharesEntry, Statement, Study } from '@/api/client'

/** A claim is asked by completing a sentence; the shares stand in a table under it. */
const props = defineProps<{ question: Question; study: Study; subgroup?: string; claim?: Claim }>()
const emit = defineEmits<{ state: [statement: Statement, runNow: boolean]; cancel: [] }>()
const { t } = useI18n()
const { check, error, now, soon } = useSharesCheck(
  () => props.study.id,
  () => props.question.id,
)

const was = props.claim
/** Whom the claim is about: the subgroup that the page shows, or everyone. */
const units = computed(() => (props.subgroup ? t('claim.units_in', { units: props.study.units, subgroup: props.subgroup }) : props.study.units))
const blank = () => ({
  role: (was?.role ?? 'null') as Role,
  mode: (was?.mode ?? 'percents') as Mode,
  rescale: was?.rescale ?? false,
  kind: (was?.mode === 'counts' && was.referenceKind === 'register' ? '' : (was?.referenceKind ?? '')) as ReferenceKind | '',
  source: was?.source ?? '',
  date: was?.sourceDate ?? '',
  level: was?.level ?? 0.05,
  otherLevel: '',
})
const draft = useDraft<ReturnType<typeof blank>>(props.study.id, props.question.id, was?.id)
const fromDraft = ref(draft.found !== null)
const noFigures = (): Record<number, string> => Object.fromEntries((was?.figures ?? []).map((f) => [f.slot, f.figure]))
const form = reactive({ ...blank(), ...draft.found?.form })
const figures = ref<Record<number, string>>(draft.found?.figures ?? noFigures())
function startAnew() {
  Object.assign(form, blank())
  figures.value = noFigures()
  draft.drop()
  fromDraft.value = false
}
const pasting = ref(false)
const pasted = ref('')
const pastedProblems = ref<string[]>([])

const OTHER = 0
const levels = computed(() => {
  const usual = [0.1, 0.05, 0.025, 0.01, 0.001]
  const all = form.level !== OTHER && !usual.includes(form.level) ? [...usual, form.level] : usual
  return [...all.map((value) => ({ value, title: `${Number((value * 100).toPrecision(6))} %` })), { value: OTHER, title: t('claim.other_level') }]
})
const choices = <T extends string>(group: string, values: readonly T[]) => values.map((value) => ({ value, title: t(`claim.${group}.${value}`) }))
const modes = computed(() => choices<Mode>('modes', ['percents', 'proportions', 'ratio', 'counts', 'equal']))
/** The counts of a group are no full count, whatever they are called. */
const kinds = computed(() => choices<ReferenceKind | ''>('kinds', [...(form.mode === 'counts' ? [] : (['register'] as const)), 'report', 'survey', 'target', 'theory']))
watch(() => form.mode, (mode) => mode === 'counts' && form.kind === 'register' && (form.kind = ''))
const roles = computed(() => choices<Role>('roles', ['null', 'alternative']))

const level = computed(() => (form.level === OTHER ? Number(form.otherLevel.replace(',', '.').replace('%', '').trim()) / 100 : form.level))
const needsSource = computed(() => form.mode !== 'equal')
/** A level this high is asked about: a confidence level may have been meant. */
const askAbove = 0.2
const mostLevel = 0.5
const keptLevel = ref(0)
const asksLevel = computed(() => level.value > askAbove && level.value < 1 && (level.value > mostLevel || keptLevel.value !== level.value))
const percent = (x: number) => Number((100 * x).toPrecision(6))
const usualLevel = computed(() => (level.value > mostLevel ? Number((1 - level.value).toPrecision(6)) : 0.05))
function setLevel(to: number) {
  form.level = to
  form.otherLevel = ''
}
const sourced = computed(() => !needsSource.value || (form.source.trim() !== '' && form.kind !== ''))
const ready = computed(() => check.value?.usable === true && sourced.value && level.value > 0 && level.value < 1 && !asksLevel.value)

const mostShown = 3
const wrong = computed(() => (check.value?.problems ?? []).filter((p) => p.code !== 'no_figure'))
const lacking = computed(() => {
  const slots = new Set((check.value?.problems ?? []).filter((p) => p.code === 'no_figure').map((p) => p.slot))
  return props.question.rows.filter((r) => slots.has(r.slot)).map((r) => `“${r.label}”`)
})

/** Why the claim cannot be stated yet although the shares are in order. */
const hint = computed(() => {
  if (check.value?.usable !== true || ready.value || (sourced.value && asksLevel.value)) return ''
  if (sourced.value) return t('claim.need_level')
  return form.source.trim() === '' ? t('claim.need_source') : t('claim.need_kind')
})

const entered = computed(() => Object.entries(figures.value).map(([slot, figure]) => ({ slot: Number(slot), figure })))
const entry = computed<SharesEntry>(() => ({ mode: form.mode, rescale: form.rescale, figures: entered.value }))
onMounted(() => now(entry.value))
watch(entry, (e) => soon(e), { deep: true })
/** Rescaling is agreed to for the figures as they stand; other figures ask again. */
watch([figures, () => form.mode], () => (form.rescale = false), { deep: true })

watch([form, figures], () => draft.keep({ form: { ...form }, figures: figures.value }), { deep: true })

/** Whose the figures became that were pasted without names. */
const placed = ref<{ labels: string[]; left: number } | null>(null)
function pasteList(text: string) {
  pasted.value = text
  pasting.value = true
  void usePasted()
}

async function usePasted() {
  placed.value = null
  const found = await now({ mode: form.mode, rescale: form.rescale, pasted: pasted.value })
  if (!found) return
  pastedProblems.value = found.problems.filter((p) => p.slot === null && p.code !== 'sum_off').map((p) => p.text)
  figures.value = Object.fromEntries(found.rows.filter((r) => r.figure !== '').map((r) => [r.slot, r.figure]))
  pasting.value = pastedProblems.value.length > 0
}

/** Equal shares need no figures and come from no publication. */
const unsourced = { figures: [], referenceKind: 'theory' as const, source: '', sourceDate: '' }

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
  if (!ready.value) return
  emit(
    'state',
    { role: form.role, level: level.value, mode: form.mode, rescale: form.rescale, figures: entered.value, referenceKind: form.kind || 'theory', source: form.source, sourceDate: form.date, subgroupId: was?.subgroupId ?? null, ...(form.mode === 'equal' ? unsourced : {}) },
    runNow,
  )
}
</script>

<template>
  <div class="beside">
    <form class="ask" data-test="claim-form" @submit.prevent="submit(true)" @keydown.esc="escape" @keydown.enter="enter">
      <p v-if="fromDraft" class="soft small" role="status">{{ t('claim.from_draft') }} <button type="button" class="act" data-test="start-anew" @click="startAnew">{{ t('claim.start_anew') }}</button></p>
      <p class="sentence">
        {{ t('claim.ask') }} <SentenceChoice v-model="form.mode" :items="modes" :label="t('claim.ask')" test="mode" />{{ ' ' }}
        <template v-if="needsSource">
          {{ t('claim.from') }} <SentenceBlank
            v-model="form.source"
            :label="t('claim.from')"
            :placeholder="t('claim.source_hint')"
            :maxlength="160"
            required
            test="source"
          />{{ t('claim.kind_line') }}
          <SentenceChoice v-model="form.kind" :items="kinds" :label="t('claim.kind_line')" :placeholder="t('claim.kind_hint')" test="reference-kind" />{{ t('claim.dated') }}
          <SentenceBlank v-model="form.date" :label="t('claim.dated')" :placeholder="t('claim.date_hint')" :maxlength="40" test="source-date" /></template>.
        {{ t('claim.claim_line', { units }) }}
        <SentenceChoice v-model="form.role" :items="roles" :label="t('claim.claim_line', { units })" test="role" />{{ t('claim.level_line') }}
        <SentenceChoice v-model="form.level" :items="levels" :label="t('claim.level_line')" test="level" />
        <SentenceBlank
          v-if="form.level === OTHER"
          v-model="form.otherLevel"
          :label="t('claim.other_level')"
          placeholder="2 %"
          :maxlength="12"
          test="other-level"
        />
        {{ t('claim.level_end') }}
      </p>
      <SharesTable
        v-model="figures"
        :question="question"
        :check="check"
        :equal="form.mode === 'equal'"
        @list="pasteList"
        @placed="(labels, left) => (placed = { labels, left })"
        @last="submitButton?.$el.focus()"
      />
      <p v-if="placed" class="problem" role="status" data-test="placed">{{ t('claim.placed', { n: placed.labels.length, first: placed.labels[0] ?? '', last: placed.labels.at(-1) ?? '' }, placed.labels.length) }}<template v-if="placed.left"> {{ t('claim.placed_left', { n: placed.left }, placed.left) }}</template></p>
      <p v-if="form.mode !== 'equal'" class="acts small">
        <button type="button" class="act" :aria-expanded="pasting" data-test="paste-list" @click="pasting = !pasting">{{ t('claim.paste') }}</button>
      </p>
      <div v-if="pasting" class="paste">
        <v-textarea v-model="pasted" :label="t('claim.paste_label')" rows="6" spellcheck="false" data-test="pasted" />
        <p v-for="(p, i) in pastedProblems" :key="i" class="problem">{{ p }}</p>
        <v-btn color="primary" :disabled="pasted.trim() === ''" data-test="match" @click="usePasted">{{ t('claim.paste_use') }}</v-btn>
      </div>
      <ErrorNote v-if="error" :error="error" />
      <div v-if="check && form.mode !== 'equal'" class="state" role="status" data-test="shares-state">
        <p v-if="form.rescale && check.usable">{{ t('claim.rescaled', { sum: check.sum }) }} <button type="button" class="act" @click="form.rescale = false">{{ t('claim.rescale_back') }}</button></p>
        <p v-if="!form.rescale && check.usable && check.gap && check.gap !== '0'">{{ t('claim.rounded', { sum: check.sum, target: check.target ?? '' }) }}</p>
        <template v-for="(p, i) in wrong.slice(0, mostShown)" :key="i">
          <p class="problem">{{ p.text }} <button v-if="p.code === 'sum_off' && check.canRescale" type="button" class="act" data-test="rescale" @click="form.rescale = true">{{ t('claim.rescale', { target: check.target ?? '' }) }}</button></p>
        </template>
        <p v-if="wrong.length > mostShown" class="soft">{{ t('claim.and_more', { n: wrong.length - mostShown }) }}</p>
        <p v-if="lacking.length" class="soft">{{ t('claim.lacking', { list: lacking.slice(0, 2 * mostShown).join(', ') }) }}<template v-if="lacking.length > 2 * mostShown"> {{ t('claim.and_more', { n: lacking.length - 2 * mostShown }) }}</template></p>
      </div>
      <p v-if="asksLevel" class="problem" role="alert" data-test="ask-level">
        {{ t('claim.ask_level', { level: percent(level) }) }}
        <button type="button" class="act" data-test="usual-level" @click="setLevel(usualLevel)">{{ t('claim.use_level', { level: percent(usualLevel) }) }}</button>{{ ' ' }}
        <button v-if="level <= mostLevel" type="button" class="act" @click="keptLevel = level">{{ t('claim.keep_level', { level: percent(level) }) }}</button>
      </p>
      <p v-if="hint" class="soft">{{ hint }}</p>
      <p class="acts submit">
        <template v-if="claim">
          <v-btn
            ref="go"
            type="submit"
            variant="flat"
            color="primary"
            :disabled="!ready"
            data-test="save-claim"
          >{{ t('claim.save') }}</v-btn>
        </template>
        <template v-else>
          <v-btn
            ref="go"
            type="submit"
            variant="flat"
            color="primary"
            :disabled="!ready"
            data-test="state-run"
          >{{ t('claim.state_run') }}</v-btn>
          <button type="button" class="act" :disabled="!ready" data-test="state-later" @click="submit(false)">{{ t('claim.state') }}</button>
        </template>
        <button type="button" class="act" @click="$emit('cancel')">{{ t('app.cancel') }}</button>
      </p>
    </form>
    <div class="margin" />
  </div>
</template>

<style scoped>
.ask { margin: 6px 30px 14px 78px; border-left: 3px solid var(--teal); padding: 2px 0 4px 20px; }
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 800px; margin-bottom: 8px; }
@media (max-width: 640px) { .ask { margin: 6px 14px 14px; padding-left: 12px; } }
.paste { display: grid; gap: 6px; max-width: 480px; justify-items: start; margin: 6px 0; }
.paste :deep(.v-textarea) { width: 100%; }
.problem { border-left: 3px double var(--ink); padding-left: 10px; margin: 4px 0; }
.state { margin: 8px 0; }
.submit { margin-top: 12px; align-items: center; }
</style>

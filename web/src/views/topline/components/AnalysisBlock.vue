<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { lazily } from '@/app/later'
import { ApiError, api } from '@/api/client'
import { day } from '@/app/format'
import DocumentView from '@/components/document/DocumentView.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import HelpNote from '@/components/HelpNote.vue'
import MarginNotes from '@/components/MarginNotes.vue'
import RemarkList from '@/components/RemarkList.vue'
import { useShares } from '@/composables/useShares'
import { useHelp } from '@/composables/useHelp'
import { useMethods } from '@/composables/useMethods'
import { useSession } from '@/app/session'
import { isUnfolded, unfold } from '@/composables/useUnfolded'

import { useAnalysisEdits } from '../composables/useAnalysisEdits'
import { useDraft } from '../composables/useDraft'
import AnalysisActs from './AnalysisActs.vue'
import ChangeList from './ChangeList.vue'

import type { Analysis, NextAsk, Note, Outlined, Question, Spec, Study, Who } from '@/api/client'
import type { View } from '../composables/useView'

interface Shelved {
  shelf?: { set: number; version: number }
}

/** Something that is asked of the question above: a claim, or what is only described. */
/** What is opened by a press comes then. */
const PatternQuestion = lazily(() => import('./PatternQuestion.vue'))
const AnalysisForm = lazily(() => import('./AnalysisForm.vue'))

const props = defineProps<{
  analysis: Analysis
  question: Question
  study: Study
  view: View
  subgroup: string
  others: { key: string; name: string }[]
  /** The questions of the study, with the lists of methods that can be asked of them. */
  questions: Outlined[]
  joins: string[][]
  ticked: boolean
  tickable: boolean
  picked: string[]
}>()
const emit = defineEmits<{
  changed: [question: Question]
  remove: []
  tick: []
  picking: [codes: string[] | null]
  next: [next: NextAsk]
  these: [who: Who[]]
  pattern: [question: number]
  merge: []
}>()
const { t } = useI18n()
const { byName } = useMethods()
const changing = ref(false)
const working = ref(false)

/** The set of shares from which its figures were taken, and that set as it is now if it is newer. */
const shelved = computed(() => {
  const settings = props.analysis.spec.settings as { shares?: { source?: Shelved }; source?: Shelved }
  return settings.shares?.source?.shelf ?? settings.source?.shelf
})
const { sets } = useShares()
const newer = computed(() => sets.value.find((s) => s.id === shelved.value?.set && s.version > shelved.value.version))

/** What the margin explains: a figure, or the kind of what is asked. */
const { topics } = useHelp()
const explained = ref('')
const topic = computed(() => topics.value.get(explained.value))

const isClaim = computed(() => props.analysis.number !== null)
const method = computed(() => byName.value.get(props.analysis.spec.method))
const document = computed(() => props.analysis.document)
const said = computed(() => {
  const a = props.analysis
  if (!isClaim.value) return a.statement
  const when =
    a.timing === 'changed' ? 'claim.stated_changed' : a.timing === 'before' ? 'claim.stated_before' : 'claim.stated_open'
  const timing = t(when, { date: day(a.statedAt) })
  // The finding of a folded claim says again what was claimed, and at which level.
  const parts = folded.value && document.value?.outcome
    ? [t('claim.said', { n: a.number ?? '' }), timing]
    : [t('claim.said', { n: a.number ?? '' }), `“${a.statement}”`, t('claim.level', { level: a.levelText }), timing]
  if (!a.spec.subgroup && props.view.of !== null) parts.push(t('claim.about_everyone'))
  if (a.source && !a.statement.includes(a.source)) parts.push(t('claim.by', { source: a.source }))
  if (a.sourceDate) parts.push(t('claim.dated_in', { date: a.sourceDate }))
  return parts.join(' · ')
})

const route = useRoute()
/** An address leads to it unfolded, until it is folded here. */
const foldedHere = ref(false)
const folded = computed(() => document.value !== null && document.value !== undefined && !changing.value
  && !isUnfolded(props.study.id, `a${props.analysis.id}`) && (foldedHere.value || route.hash !== `#a${props.analysis.id}`))
/** The only one of a study is what it is about: that stands unfolded, too. */
onMounted(() => {
  if (props.questions.reduce((n, q) => n + q.analyses.length, 0) === 1) unfold(props.study.id, `a${props.analysis.id}`)
})
function fold(away: boolean) {
  foldedHere.value = away
  unfold(props.study.id, `a${props.analysis.id}`, !away)
}
/** What was just found out stands unfolded. */
function decide() {
  fold(false)
  void run()
}
/** What the head of the page says of all that is on it. */
const saidInHead = 'note.conditions.unweighted'
/** While it is folded the margin holds what needs an answer; the rest is counted. */
const notes = computed(() => {
  const all = document.value?.notes ?? []
  return folded.value ? all.filter((n) => n.caution && n.seen === null && n.id !== saidInHead) : all
})
const further = computed(() => (document.value?.notes.length ?? 0) - notes.value.length)

const session = useSession()
const { error, attempt, run, change, select, answer, seen, reload } = useAnalysisEdits(props, (q) => emit('changed', q))

/** The key of the report works on whatever of it has the focus, but for what is typed into. */
function keyed(event: KeyboardEvent) {
  const typed = (event.target as HTMLElement).closest('input, textarea, [contenteditable], [role=listbox]')
  if (typed || event.ctrlKey || event.metaKey || event.altKey || !document.value) return
  event.preventDefault()
  event.stopPropagation()
  void select()
}

async function save(spec: Spec, runNow: boolean) {
  fold(false)
  if (await attempt(() => api.editAnalysis(props.study.id, props.analysis.id, props.analysis.version, spec, runNow, props.view))) {
    useDraft(props.study.id, props.question.id, String(props.analysis.id)).drop()
    close()
  }
}
function close() {
  changing.value = false
  emit('picking', null)
}
function remedy(r: NonNullable<Note['remedy']>) {
  if (r.action === 'merge') emit('merge')
  else if (r.action === 'answer') void answer(r.code)
  else if (r.ask) emit('next', r.ask)
  else if (r.change) change(r.change)
}
/** Other questions of which the same can be claimed. */
const patterning = ref(false)
const like = computed(() =>
  props.questions
    .filter((q) => q.id !== props.question.id && !props.analysis.spec.questions.includes(String(q.id))
      && (props.joins[q.opens] ?? []).includes(props.analysis.spec.method))
    .map((q) => ({ value: q.id, title: `${q.number} · ${q.wording}` })),
)
function patterned(id: number | null) {
  patterning.value = false
  if (id !== null) emit('pattern', id)
}
</script>

<template>
  <article
    :id="`a${analysis.id}`"
    class="claim"
    :aria-label="isClaim ? t('claim.said', { n: analysis.number ?? '' }) : said"
    :data-test="isClaim ? 'claim' : 'described'"
    @keydown.r="keyed"
  >
    <div class="beside">
      <div class="bar" :class="{ described: !isClaim }">
        <p class="said">{{ said }}<template v-if="folded">
          <button
            type="button"
            class="act fold"
            aria-expanded="false"
            :aria-label="t('claim.unfold_of', { statement: analysis.statement })"
            data-test="unfold"
            @click="fold(false)"
          >{{ t('claim.unfold') }} <span aria-hidden="true">▾</span></button>
          <span
            v-if="further > 0"
            class="soft small"
          >{{ t(`claim.${notes.length ? 'further_notes' : 'notes'}`, { n: further }, further) }}</span>
        </template></p>
        <ErrorNote
          v-if="error"
          :error="error"
          :action="error instanceof ApiError && error.isStale ? t('app.reload') : undefined"
          @act="reload"
        />
        <DocumentView
          v-if="document"
          :document="document"
          :folded="folded"
          :working="working"
          :pictures="(n) => api.chart(study.id, analysis.id, n)"
          :tables="(n) => api.analysisTable(study.id, analysis.id, n)"
          @change="change($event)"
          @ask="emit('next', $event)"
          @these="emit('these', $event)"
          @explain="explained = $event"
        />
        <template v-else>
          <h3 v-if="!analysis.firstRunAt">{{ analysis.statement }}</h3>
          <div v-if="analysis.problems.length" class="needs" role="status">
            <p>{{ t('claim.need_fix') }}</p>
            <p v-for="(p, i) in analysis.problems" :key="i">{{ p }}</p>
          </div>
          <button v-else-if="session.may.ask" type="button" class="main-act" data-test="run" @click="decide">{{ t('claim.run') }}</button>
        </template>
        <AnalysisActs
          v-if="!folded && session.may.ask"
          v-model:working="working"
          v-model:patterning="patterning"
          v-model:explained="explained"
          :analysis="analysis"
          :method="method"
          :ticked="ticked"
          :tickable="tickable"
          :changing="changing"
          :patterned="isClaim && like.length > 0"
          :topics="topics"
          @tick="$emit('tick')"
          @change="changing ? close() : (changing = true)"
          @select="select"
          @basis="save({ ...analysis.spec, unweighted: !analysis.spec.unweighted }, true)"
          @fold="fold(true)"
          @remove="$emit('remove')"
        />
        <PatternQuestion
          v-if="patterning"
          :items="like"
          class="pattern"
          @chosen="patterned"
          @close="patterning = false"
        />
        <ChangeList v-if="analysis.changes.length && !folded" :changes="analysis.changes" />
      </div>
      <MarginNotes :notes="notes" answerable gathered @remedy="remedy" @seen="seen">
        <HelpNote v-if="topic" :topic="topic" @close="explained = ''" />
        <p
          v-if="newer"
          data-test="newer-shares"
        >{{ t('claim.newer_shares', { title: newer.title, n: newer.version, used: shelved?.version ?? 0 }) }}
          <RouterLink to="/shares">{{ t('places.to_shares') }}</RouterLink></p>
        <RemarkList :study="study.id" :question="question.id" :analysis="analysis.id" />
      </MarginNotes>
    </div>
    <AnalysisForm
      v-if="changing && method"
      :method="method"
      :question="question"
      :study="study"
      :subgroup="subgroup"
      among=""
      :analysis="analysis"
      :others="others"
      :picked="picked"
      :view="view"
      @changed="$emit('changed', $event)"
      @ask="save"
      @cancel="close"
      @picking="$emit('picking', $event)"
    />
  </article>
</template>

<style scoped>
.bar { margin: 8px 30px 0 78px; border-left: 3px solid var(--ink); padding: 1px 0 3px 20px; }
.described { border-left-color: var(--rule); }
.fold { font-size: 14px; margin: 0 10px 0 14px; padding: 0; }
.claim { scroll-margin-top: 62px; }
.claim :deep(.margin) { padding-top: 12px; }
.pattern { max-width: 620px; }
.said { color: var(--soft); font-size: 13.5px; margin-bottom: 3px; }
h3 { font-size: 18px; font-weight: 600; line-height: 1.35; max-width: 700px; margin-bottom: 10px; }
@media (max-width: 640px) { .bar { margin: 10px 14px 0; padding-left: 12px; } }
.needs { border-left: 3px double var(--ink); padding-left: 12px; margin: 8px 0; }
</style>

<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { ApiError, api } from '@/api/client'
import { did } from '@/app/firstSteps'
import { changing } from '@/app/live'
import { namesQuestion } from '@/app/questionHash'
import { lazily } from '@/app/later'
import { useSession } from '@/app/session'
import ErrorNote from '@/components/ErrorNote.vue'
import InlineText from '@/components/InlineText.vue'
import MarginNotes from '@/components/MarginNotes.vue'
import RemarkList from '@/components/RemarkList.vue'
import { unfold } from '@/composables/useUnfolded'

import { useActs } from '../composables/useActs'
import { useAsking } from '../composables/useAsking'
import { useDraft } from '../composables/useDraft'
import { useQuestionEdits } from '../composables/useQuestionEdits'
import { useQuestionKeys } from '../composables/useQuestionKeys'
import { useTicks } from '../composables/useTicks'
import AnalysisBlock from './AnalysisBlock.vue'
import QuestionActs from './QuestionActs.vue'
import QuestionFigures from './QuestionFigures.vue'
import QuestionForms from './QuestionForms.vue'
import QuestionHead from './QuestionHead.vue'

import type { Analysis, NextAsk, Outlined, Question, Spec, Study, Subgroup, Topline, Who, Window } from '@/api/client'
import type { View } from '../composables/useView'

/** What is opened by a press comes then. */
const AnswerArranger = lazily(() => import('@/components/AnswerArranger.vue'))
const DeriveForm = lazily(() => import('@/components/deriving/DeriveForm.vue'))

const props = defineProps<{
  question: Question
  study: Study
  view: View
  subgroups: Subgroup[]
  questions: Outlined[]
  joins: string[][]
  /** Which questions of the page an edit brings up to date. */
  drawn: () => Window
}>()
const emit = defineEmits<{
  changed: [question: Question]
  base: []
  reload: []
  page: [page: Topline]
  view: [change: Partial<View>]
  next: [next: NextAsk, questions: string[]]
  these: [who: Who[], questions: string[]]
  pattern: [question: number, spec: Spec, settings: Record<string, unknown>]
}>()
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const arranging = ref(false)
const designing = ref(false)
const deriving = ref<'merge' | 'bands' | null>(null)
const { error, attempt, edit, relabel, remedy, derive, select, shelve, rebuild, reload } = useQuestionEdits(props, {
  changed: (q) => emit('changed', q),
  page: (page) => emit('page', page),
  reload: () => emit('reload'),
  derived: () => (deriving.value = null),
})
const {
  byName,
  asking,
  others,
  picked,
  methods,
  form,
  seeksOther,
  among,
  open,
  close,
  withOthers,
  state,
  needsPicking,
  pick,
} = useAsking(props, ask)

const changers = computed(() => changing(props.study.id, props.question.id))
const counts = computed(() => new Map([...props.question.rows, ...props.question.missingRows].map((r) => [r.slot, r.count])))
const { references, chosen, reference } = useTicks(() => props.question, among)
const groupName = (key: string) => props.subgroups.find((g) => String(g.id) === key)?.name ?? ''
const named = (keys: string[]) =>
  keys.map((key) => {
    const q = props.questions.find((one) => String(one.id) === key)
    return { key, name: q ? q.short || `“${q.wording}”` : key }
  })
/** A form that the address names opens here; then the address forgets it. */
onMounted(() => watch([() => route.query.ask, () => route.hash, methods], () => {
  const method = methods.value.find((m) => m.name === route.query.ask)
  if (!method || !namesQuestion(route.hash, props.question)) return
  if (asking.value !== method.name) open(method)
  void router.replace({ query: { ...route.query, ask: undefined }, hash: route.hash })
}, { immediate: true }))

/** The kind of claim that serves the design; its form goes on from there. */
function designed(name: string) {
  const method = byName.value.get(name)
  if (method && asking.value !== name) open(method)
}

/** The choose-all set that this question is a column of. */
const set = computed(() => {
  const part = props.questions.find((q) => q.id === props.question.id)?.partOf
  return part ? props.questions.find((q) => q.id === part) : undefined
})
const unfolded = ref(false)
/** Such a column is counted there; by itself it takes a line until it is wanted. */
const folded = computed(() => set.value !== undefined && !unfolded.value && props.question.analyses.length === 0)
/** What is not tabulated takes one line of the page, too. */
const isLine = computed(
  () => !props.question.damage && (folded.value || ['text', 'identifier'].includes(props.question.kind)),
)

async function ask(spec: Spec, runNow: boolean) {
  return attempt(async () => {
    const made = await api.stateAnalysis(props.study.id, spec, runNow, props.view)
    chosen.value = made.analysisId
    unfold(props.study.id, `a${made.analysisId}`)
    did(byName.value.get(spec.method)?.purpose ?? '')
    useDraft(props.study.id, props.question.id, spec.method).drop()
    return made.question
  })
}

const remove = (a: Analysis) =>
  attempt(async () => {
    await api.withdrawAnalysis(props.study.id, a.id)
    session.offerUndo(a.number === null ? t('topline.taken_away') : t('claim.deleted', { n: a.number }), async () => {
      await attempt(() => api.restoreAnalysis(props.study.id, a.id, props.view))
    })
    return { ...props.question, analyses: props.question.analyses.filter((x) => x.id !== a.id) }
  })

const menu = ref(false)
const acts = useActs(
  () => ({
    question: props.question,
    methods: methods.value,
    asking: asking.value,
    arranging: arranging.value,
    deriving: deriving.value,
    designing: designing.value,
  }),
  {
    open,
    arrange: () => (arranging.value = !arranging.value),
    derive: (rule) => (deriving.value = deriving.value === rule ? null : rule),
    select: () => void select(),
    shelve: () => void shelve(),
    design: () => (designing.value = !designing.value),
  },
)
const hasActs = computed(
  () => session.may.ask && (props.question.tabulated || methods.value.length > 0) && !props.question.damage && !folded.value,
)
const keyed = useQuestionKeys(() => (hasActs.value ? acts.value : []), () => byName.value.size > 0, () => (menu.value = hasActs.value))
</script>

<template>
  <section
    class="question"
    :class="{ line: isLine }"
    :data-place="question.id"
    tabindex="-1"
    :aria-label="`${question.number}. ${question.wording}`"
    @keydown="keyed"
  >
    <div class="beside">
      <div class="body">
        <div class="no serif" aria-hidden="true">{{ question.number }}</div>
        <div class="main" :class="{ oneline: isLine }">
          <QuestionHead
            :question="question"
            :study="study"
            :set="set"
            :folded="folded"
            :line="isLine"
            :named="methods.length > 0"
            @edit="edit"
            @unfold="unfolded = true"
          />
          <p v-if="changers.length" class="soft small" role="status" data-test="changing">
            {{ t('live.changing', { name: changers.join(', ') }) }}
          </p>
          <ErrorNote
            v-if="error"
            :error="error"
            :action="error instanceof ApiError && error.isStale ? t('app.reload') : undefined"
            @act="reload"
          />
          <ErrorNote
            v-if="question.damage"
            :error="new Error(question.damage.text)"
            :action="t('topline.rebuild')"
            data-test="damaged"
            @act="rebuild(question.damage.questionId)"
          />
          <template v-else-if="arranging">
            <AnswerArranger :question="question" :counts="counts" @edit="edit" />
          </template>
          <QuestionFigures
            v-else
            :question="question"
            :study="study"
            :view="view"
            :folded="folded"
            :line="isLine"
            :reference="reference"
            :several="references.length > 1"
            :picked="picked"
            @base="$emit('base')"
            @relabel="relabel"
            @pick="pick"
            @view="emit('view', $event)"
          />
          <QuestionActs v-if="hasActs" v-model:menu="menu" :number="question.number" :acts="acts" />
          <DeriveForm v-if="deriving" :key="deriving" :rule="deriving" :questions="[question]" @save="derive" @cancel="deriving = null" />
        </div>
      </div>
      <MarginNotes :notes="folded ? [] : question.notes" :base="view.base" @remedy="remedy">
        <p v-if="!folded" class="own">
          <span v-if="question.selected" class="in-report" data-test="in-report">{{ t('topline.selected') }}</span>
          <InlineText
            v-if="question.note"
            :text="question.note"
            :label="t('topline.note')"
            :maxlength="2000"
            clearable
            data-test="note"
            @save="edit({ note: $event })"
          />
        </p>
        <RemarkList v-if="!folded" :study="study.id" :question="question.id" />
      </MarginNotes>
    </div>
    <QuestionForms
      v-model:designing="designing"
      :question="question"
      :study="study"
      :view="view"
      :questions="questions"
      :joins="joins"
      :method="form"
      :seeks-other="seeksOther"
      :others="others"
      :named="named(others)"
      :among="among"
      :subgroup="groupName(among)"
      :picked="picked ?? []"
      @design="designed"
      @other="withOthers"
      @changed="$emit('changed', $event)"
      @ask="state"
      @cancel="close"
      @picking="picked = form && needsPicking(form) ? $event : null"
    />
    <AnalysisBlock
      v-for="a in question.analyses"
      :key="a.id"
      :analysis="a"
      :question="question"
      :study="study"
      :view="view"
      :subgroup="groupName(a.spec.subgroup ?? '')"
      :others="named(a.spec.questions.slice(1))"
      :questions="questions"
      :joins="joins"
      :ticked="references.length > 1 && a.id === reference?.id"
      :tickable="references.length > 1 && references.includes(a)"
      :picked="picked ?? []"
      @tick="chosen = a.id"
      @changed="$emit('changed', $event)"
      @remove="remove(a)"
      @next="(next) => emit('next', next, a.spec.questions)"
      @these="(who) => emit('these', who, a.spec.questions)"
      @merge="deriving = 'merge'"
      @pattern="(id) => emit('pattern', id, a.spec, a.pattern)"
      @picking="picked = $event && needsPicking(byName.get(a.spec.method)) ? $event : null"
    />
  </section>
</template>

<style scoped>
.question {
  scroll-margin-top: 62px;
}
.question:focus {
  outline: none;
}
.question:focus > .beside:first-child > .body > .no {
  text-decoration: underline;
  text-decoration-thickness: 2px;
  text-underline-offset: 5px;
}
.body {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  padding: 15px 30px 4px 34px;
}
.no {
  font-size: 16px;
  line-height: 1.55;
  font-weight: 600;
  color: var(--soft);
}
.oneline {
  display: flex;
  align-items: baseline;
  gap: 4px 14px;
  flex-wrap: wrap;
}
.line .body {
  padding-top: 12px;
}
@media (max-width: 640px) {
  .body { grid-template-columns: 26px minmax(0, 1fr); padding: 18px 14px 6px; }
}
/* At rest one reads: ways to take a table away and an empty note come with the pointer or the focus. */
@media (hover: hover) {
  .question:not(:hover, :focus-within) :deep(:is(.leave, .offered, .further:not([aria-expanded='true']))) { opacity: 0; }
}
.own { display: flex; flex-direction: column; gap: 4px; align-items: flex-start; }
.in-report { font: 600 13px 'Source Sans 3 Variable', sans-serif; color: var(--teal); }
.question > .beside:first-child > :deep(.margin) { padding-top: 21px; }
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { ApiError, api } from '@/api/client'
import { useSession } from '@/app/session'
import AnswerArranger from '@/components/AnswerArranger.vue'
import { applyRemedy } from '@/api/remedy'
import ErrorNote from '@/components/ErrorNote.vue'
import { count } from '@/app/format'
import InlineText from '@/components/InlineText.vue'
import MarginNotes from '@/components/MarginNotes.vue'
import TableActs from '@/components/TableActs.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useMethods } from '@/composables/useMethods'

import { useDraft } from '../composables/useDraft'
import AnalysisBlock from './AnalysisBlock.vue'
import AnalysisForm from './AnalysisForm.vue'
import NumberSummary from './NumberSummary.vue'
import OtherQuestion from './OtherQuestion.vue'
import TallyTable from './TallyTable.vue'

import type { Analysis, Method, Note, Question, QuestionEdit, Spec, Study, Subgroup, Topline } from '@/api/client'
import type { Base } from '../types'

const props = defineProps<{
  question: Question
  study: Study
  base: Base
  showCodes: boolean
  cumulative: boolean
  proportions: boolean
  of: number | null
  subgroups: Subgroup[]
  questions: Question[]
}>()
const emit = defineEmits<{ changed: [question: Question]; base: []; reload: []; page: [page: Topline] }>()
const { t } = useI18n()
const session = useSession()
const arranging = ref(false)
/** The method of which the form is open, and, where it takes a second question, which. */
const asking = ref<string | null>(null)
/** The further questions of what is asked, as far as they are chosen. */
const others = ref<string[]>([])
const picked = ref<string[] | null>(null)
const { byName } = useMethods()
const { error, attempt: tried } = useAttempt()

/** What can be asked of this question, as the server tells. */
/** The other questions with the same shared list. */
const battery = computed(() =>
  props.questions.filter((q) => q.id !== props.question.id && q.listId !== null && q.listId === props.question.listId),
)
const methods = computed(() =>
  props.question.asks.flatMap((name) => byName.value.get(name) ?? []).filter((m) => !m.more || battery.value.length > 0),
)
const counts = computed(() => new Map([...props.question.rows, ...props.question.missingRows].map((r) => [r.slot, r.count])))
/** The claims whose shares can stand as ticks in the tally: those that have been run and
 * are about those whom the tally counts. The last one stands there unless another is chosen. */
const references = computed(() =>
  props.question.analyses.filter(
    (a) => a.document?.ticks && (a.spec.subgroup ?? '') === (props.of === null ? '' : String(props.of)),
  ),
)
const chosen = ref<number | null>(null)
const reference = computed<Analysis | null>(() => references.value.find((c) => c.id === chosen.value) ?? references.value.at(-1) ?? null)
const groupName = (key: string) => props.subgroups.find((g) => String(g.id) === key)?.name ?? ''
const among = computed(() => (props.of === null ? '' : String(props.of)))
const named = (keys: string[]) =>
  keys.map((key) => {
    const q = props.questions.find((one) => String(one.id) === key)
    return { key, name: q ? q.short || `“${q.wording}”` : key }
  })
const form = computed(() => (asking.value === null ? undefined : byName.value.get(asking.value)))
const seeksOther = computed(() => form.value !== undefined && form.value.questions.length > 1 + others.value.length)

/** What is no claim is described at once; it can be tested where it then stands. */
function open(method: Method) {
  const again = asking.value === method.name
  close()
  if (again) return
  if (method.tests || method.questions.length > 1) asking.value = method.name
  else describe(method, method.more ? battery.value.map((q) => String(q.id)) : [])
}
function close() {
  asking.value = null
  others.value = []
  picked.value = null
}
function withOther(id: number) {
  const method = form.value
  others.value = [...others.value, String(id)]
  if (method && !method.tests && !seeksOther.value) describe(method, others.value)
}
function describe(method: Method, others: string[]) {
  void state(
    {
      method: method.name,
      version: method.version,
      questions: [String(props.question.id), ...others],
      settings: method.settings,
      ...(among.value ? { subgroup: among.value } : {}),
    },
    false,
  )
}
const needsPicking = (m: Method | undefined) => m?.inputs.some((i) => i.kind === 'categories') ?? false
function pick(code: string) {
  const now = picked.value ?? []
  picked.value = now.includes(code) ? now.filter((c) => c !== code) : [...now, code]
}

/** The choose-all set that this question is a column of. */
const set = computed(() =>
  props.questions.find((q) => q.derivation?.rule === 'together' && q.derivation.sources.includes(props.question.id)),
)
const unfolded = ref(false)
/** Such a column is counted there; by itself it takes a line until it is wanted. */
const folded = computed(() => set.value !== undefined && !unfolded.value && props.question.analyses.length === 0)
/** What is not tabulated takes one line of the page, too. */
const isLine = computed(
  () => !props.question.damage && (folded.value || ['text', 'identifier'].includes(props.question.kind)),
)

const subline = computed(() => {
  const q = props.question
  if (folded.value) return t('topline.answered', { n: count(q.answered) })
  const parts = [
    t('topline.asked', { n: count(q.everyone), units: props.study.units }),
    ...(q.asked === null ? [] : [t('topline.asked_of', { n: count(q.asked) })]),
    t('topline.answered', { n: count(q.answered) }),
  ]
  parts.push(
    q.missing > 0 ? t('topline.missing', { n: count(q.missing) }) : t('topline.none_missing'),
    t(`topline.kinds.${q.kind}`),
  )
  if (isLine.value && q.different > 0) parts.push(t('topline.different', { n: count(q.different) }, q.different))
  if (isLine.value && q.examples.length) parts.push(t('topline.examples', { list: q.examples.join(', ') }))
  return parts.join(' · ')
})

/** What an edit gives back is the question as it is then. */
async function attempt(work: () => Promise<Question | void>) {
  const done = await tried(work)
  if (done?.value) emit('changed', done.value)
  return done !== null
}

const edit = (change: QuestionEdit) =>
  attempt(async () => {
    emit('page', await api.editOnPage(props.study.id, props.question.id, props.question.version, change, props.of))
  })

const editAnswers = (change: (answers: QuestionEdit['answers'] & object) => void) => {
  const answers = props.question.answers.map(({ slot, label, missing, sameAs, score }) => ({ slot, label, missing, sameAs, score }))
  change(answers)
  return edit({ answers })
}

const relabel = (slot: number, label: string) =>
  editAnswers((answers) => {
    const answer = answers.find((a) => a.slot === slot)
    if (answer) answer.label = label
  })

async function remedy(r: NonNullable<Note['remedy']>) {
  if (await attempt(async () => void (await applyRemedy(props.study.id, props.question, r)))) emit('reload')
}

async function state(spec: Spec, runNow: boolean) {
  const kept = await attempt(async () => {
    const made = await api.stateAnalysis(props.study.id, spec, runNow, props.of)
    chosen.value = made.analysisId
    useDraft(props.study.id, props.question.id, spec.method).drop()
    return made.question
  })
  if (kept) close()
}

const remove = (a: Analysis) =>
  attempt(async () => {
    await api.withdrawAnalysis(props.study.id, a.id)
    session.offerUndo(a.number === null ? t('topline.taken_away') : t('claim.deleted', { n: a.number }), async () => {
      await attempt(() => api.restoreAnalysis(props.study.id, a.id, props.of))
    })
    return { ...props.question, analyses: props.question.analyses.filter((x) => x.id !== a.id) }
  })

/** Rebuilds a damaged column, after which everything that rests on it is shown anew. */
async function rebuild(id: number) {
  if (await attempt(async () => void (await api.repair(props.study.id, id)))) emit('reload')
}

async function reload() {
  await attempt(() => api.question(props.study.id, props.question.id, props.of))
}

function keyed(event: KeyboardEvent) {
  if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return
  const method = methods.value.find((m) => m.key === event.key)
  if (!method) return
  event.preventDefault()
  if (asking.value !== method.name) open(method)
}
</script>

<template>
  <section
    class="question"
    :class="{ line: isLine }"
    tabindex="-1"
    :aria-label="`${question.number}. ${question.wording}`"
    @keydown="keyed"
  >
    <div class="beside">
      <div class="body">
        <div class="no serif" aria-hidden="true">{{ question.number }}</div>
        <div class="main" :class="{ oneline: isLine }">
          <h2><InlineText
            :text="question.wording"
            :label="t('topline.edit_wording')"
            :maxlength="1000"
            @save="edit({ wording: $event })"
          /></h2>
          <p
            v-if="!question.damage"
            class="sub"
            :title="t('topline.read_as', { reason: question.kindReason })"
          >{{ subline }}<template v-if="question.countsInForce">
            · <b>{{ t('topline.counts_in_force') }}</b>
          </template><template v-if="methods.length && !folded"> · <InlineText
            :text="question.short"
            :shown="question.short || t('topline.no_short')"
            :label="t('topline.edit_short')"
            :maxlength="60"
            clearable
            @save="edit({ short: $event })"
          /></template><template v-if="set && folded">
            · <a :href="`#q${set.number}`">{{ t('topline.part_of', { n: set.number }) }}</a> · <button
              type="button"
              class="act"
              data-test="unfold"
              @click="unfolded = true"
            >{{ t('topline.unfold') }}</button>
          </template></p>
          <p v-if="question.note" class="soft small">{{ question.note }}</p>
          <ErrorNote
            v-if="error"
            :error="error"
            :action="error instanceof ApiError && error.isStale ? t('app.reload') : undefined"
            @act="reload"
          />
          <ErrorNote
            v-if="question.damage"
            :error="new Error(question.damage.text)"
            :action="t('check.rebuild')"
            data-test="damaged"
            @act="rebuild(question.damage.questionId)"
          />
          <template v-else-if="arranging">
            <AnswerArranger :question="question" :counts="counts" @edit="edit" />
          </template>
          <template v-else>
            <div v-if="question.tabulated && !folded" class="wide">
              <TallyTable
                :question="question"
                :study="study"
                :base="base"
                :show-codes="showCodes"
                :cumulative="cumulative"
                :proportions="proportions"
                :reference="reference"
                :several="references.length > 1"
                :picked="picked"
                @base="$emit('base')"
                @relabel="relabel"
                @pick="pick"
              />
              <TableActs v-if="!picked" :address="api.questionTable(study.id, question.id, base, of)" />
              <p v-else class="soft small">{{ t('topline.picking') }}</p>
            </div>
            <p v-if="question.isCounts">
              {{ t('topline.is_counts') }}
            </p>
            <NumberSummary
              v-if="question.numeric && !folded"
              :numeric="question.numeric"
              :histogram="!question.tabulated"
            />
            <p
              v-if="['continuous', 'weight', 'count'].includes(question.kind) && !question.numeric && !question.isCounts"
              class="soft"
            >
              {{ t('topline.no_numbers') }}
            </p>
            <p
              v-if="question.different > 0 && !isLine"
              class="soft"
            >
              {{ t('topline.different', { n: count(question.different) }, question.different) }}<template v-if="question.examples.length">
                , {{ t('topline.examples', { list: question.examples.join(', ') }) }}
              </template>
            </p>
            <p
              v-if="!question.tabulated && !isLine && question.missing > 0"
              class="soft small"
            >
              {{ t('topline.missing_title_everyone') }}: {{ question.missingRows.map((r) => `${r.label}: ${count(r.count)}`).join(' · ') }}
            </p>
          </template>
          <p v-if="(question.tabulated || methods.length) && !question.damage && !folded" class="acts">
            <button
              v-for="m in methods"
              :key="m.name"
              type="button"
              class="act"
              :aria-expanded="m.tests || m.questions.length > 1 ? asking === m.name : undefined"
              :data-test="`ask-${m.name}`"
              @click="open(m)"
            >{{ t(`ask.${m.texts}.act`) }}</button>
            <button
              v-if="question.tabulated"
              type="button"
              class="act"
              :aria-expanded="arranging"
              data-test="arrange"
              @click="arranging = !arranging"
            >{{ arranging ? t('topline.arranged') : t('topline.arrange') }}</button>
          </p>
        </div>
      </div>
      <MarginNotes :notes="folded ? [] : question.notes" :base="base" @remedy="remedy" />
    </div>
    <div v-if="form && seeksOther" class="beside">
      <div class="seek"><OtherQuestion
        :key="others.length"
        :method="form"
        :taken="[String(question.id), ...others]"
        :questions="questions"
        @chosen="withOther"
        @cancel="close"
      /></div>
      <div class="margin" />
    </div>
    <AnalysisForm
      v-else-if="form"
      :key="form.name"
      :method="form"
      :question="question"
      :study="study"
      :subgroup="groupName(among)"
      :among="among"
      :others="named(others)"
      :picked="picked ?? []"
      @ask="state"
      @cancel="close"
      @picking="picked = needsPicking(form) ? $event : null"
    />
    <AnalysisBlock
      v-for="a in question.analyses"
      :key="a.id"
      :analysis="a"
      :question="question"
      :study="study"
      :of="of"
      :subgroup="groupName(a.spec.subgroup ?? '')"
      :others="named(a.spec.questions.slice(1))"
      :ticked="references.length > 1 && a.id === reference?.id"
      :tickable="references.length > 1 && references.includes(a)"
      :picked="picked ?? []"
      @tick="chosen = a.id"
      @changed="$emit('changed', $event)"
      @remove="remove(a)"
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
  padding: 22px 30px 6px 34px;
}
.no {
  font-size: 16px;
  line-height: 1.55;
  font-weight: 600;
  color: var(--soft);
}
h2 {
  font-size: 19px;
  font-weight: 500;
  line-height: 1.3;
}
.sub {
  color: var(--soft);
  font-size: 14px;
  margin: 2px 0 9px;
}
.acts {
  margin: 9px 0 4px;
  gap: 6px 18px;
}
.seek {
  padding: 0 30px 0 78px;
}
.oneline {
  display: flex;
  align-items: baseline;
  gap: 4px 14px;
  flex-wrap: wrap;
}
.oneline h2 {
  font-size: 16px;
}
.oneline .sub {
  margin: 0;
  min-width: 0;
  overflow-wrap: anywhere;
}
.line .body {
  padding-top: 12px;
}
@media (max-width: 640px) {
  .body { grid-template-columns: 26px minmax(0, 1fr); padding: 18px 14px 6px; }
  .seek { padding: 0 14px 0 40px; }
}
.question > .beside:first-child > :deep(.margin) { padding-top: 28px; }
</style>

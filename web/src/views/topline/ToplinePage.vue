<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { api } from '@/api/client'
import { useSession } from '@/app/session'
import { useKeys } from '@/composables/useKeys'
import ErrorNote from '@/components/ErrorNote.vue'
import { count } from '@/app/format'
import InlineText from '@/components/InlineText.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import UndoSteps from '@/components/UndoSteps.vue'
import { useLoad } from '@/composables/useLoad'
import { useUndo } from '@/composables/useUndo'

import LazyQuestion from './components/LazyQuestion.vue'
import QuestionBlock from './components/QuestionBlock.vue'
import QuestionList from './components/QuestionList.vue'

import type { Question, StudyEdit, Topline } from '@/api/client'
import type { Base } from './types'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
/** The subgroup that the tallies are about; null is everyone. */
const of = computed(() => (route.query.of ? Number(route.query.of) : null))
const { data, loading, error, run } = useLoad(() => [studyId.value, 'topline', of.value], (signal) => api.topline(studyId.value, of.value, signal), true)
const failed = ref<Error | null>(null)
/** A longer questionnaire is drawn as it is scrolled to. */
const mostEager = 60

const base = computed<Base>(() => (route.query.base === 'everyone' ? 'everyone' : 'answered'))
const showCodes = computed(() => route.query.codes === '1')
/** Running sums, where the order of the answers means something. */
const cumulative = computed(() => route.query.cumulative === '1')
const proportions = computed(() => route.query.as === 'proportions')
const anchor = (q: Question) => `q${q.number}`

function setQuery(change: Record<string, string | undefined>) {
  void router.replace({ query: { ...route.query, ...change }, hash: route.hash })
}

function register(page: Topline) {
  session.open(
    studyId.value,
    page.questions.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: `#${anchor(q)}` })),
  )
}

async function load() {
  const page = await run()
  if (!page) return
  register(page)
  await nextTick()
  toHash()
  await document.fonts.ready // lines break anew when the fonts come in
  toHash()
  // What is drawn on the way there takes its real height.
  if (page.questions.length > mostEager) for (const wait of [100, 300]) setTimeout(toHash, wait)
}

/** Shows the page as it is now, where the reader stands. */
async function again() {
  const page = await run()
  if (page) register(page)
}
function show(page: Topline) {
  data.value = page
  register(page)
}

function toHash() {
  if (route.hash) document.getElementById(route.hash.slice(1))?.scrollIntoView({ block: 'start' })
}

onMounted(load)
watch([studyId, of], load)
watch(() => route.hash, () => nextTick(toHash))

function replace(question: Question) {
  if (!data.value) return
  data.value = { ...data.value, questions: data.value.questions.map((q) => (q.id === question.id ? question : q)) }
  register(data.value)
}

async function editStudy(change: StudyEdit) {
  if (!data.value) return
  failed.value = null
  try {
    await api.editStudy(studyId.value, data.value.study.version, change)
    await again()
  } catch (cause) {
    failed.value = cause as Error
  }
}

const among = computed(() => [
  { value: 0, title: t('topline.everyone') },
  ...(data.value?.subgroups ?? []).map((g) => ({ value: g.id, title: g.n === null ? g.name : `${g.name} (${count(g.n)})` })),
])
/** Whom the page is about; null when a damaged column keeps anybody from telling. */
const shownRows = computed(() => {
  const group = data.value?.subgroups.find((g) => g.id === of.value)
  if (group) return group.n
  const whole = data.value?.questions.find((q) => q.damage === null)
  return data.value?.study.countQuestion === null ? data.value.study.rows : (whole?.everyone ?? null)
})

const { step: undoStep, error: undoError } = useUndo(studyId, again)

function nextDecimals() {
  if (data.value) void editStudy({ decimals: (data.value.study.decimals + 1) % 7 })
}

function step(by: 1 | -1) {
  const blocks = [...document.querySelectorAll<HTMLElement>('section.question')]
  const top = 80
  const here = blocks.findIndex((b) => b.getBoundingClientRect().bottom > top + 1)
  const focused = blocks.findIndex((b) => b === document.activeElement)
  const from = focused >= 0 ? focused + by : by > 0 ? here : here - 1
  const target = blocks[Math.min(Math.max(from, 0), blocks.length - 1)]
  target?.scrollIntoView({ block: 'start' })
  target?.focus({ preventScroll: true })
}
const listed = ref(false)
/** On a narrow screen the column lies over the page, so it folds away once it has served. */
function goTo(hash: string) {
  if (window.innerWidth < 1700) listed.value = false
  void router.push({ query: route.query, hash })
}
useKeys({ j: () => step(1), k: () => step(-1), l: () => (listed.value = !listed.value) })
</script>

<template>
  <PlaceHead>
    <template v-if="data">
      <h1><InlineText
        :text="data.study.name"
        :label="t('topline.rename_study')"
        :maxlength="120"
        @save="editStudy({ name: $event })"
      /></h1>
      <div class="context">
        <b>{{ shownRows === null ? '?' : count(shownRows) }}</b> <InlineText
          :text="data.study.units"
          :label="t('topline.units_edit')"
          :maxlength="40"
          @save="editStudy({ units: $event })"
        /> ·
        <template v-if="data.subgroups.length"><ChoiceMenu
          class="of"
          :model-value="of ?? 0"
          :items="among"
          :label="t('topline.of')"
          test="of"
          @update:model-value="setQuery({ of: $event ? String($event) : undefined })"
        /> ·{{ ' ' }}</template>
        <template v-if="data.study.countQuestion !== null">
          <RouterLink
            :to="`/studies/${studyId}/check`"
            class="force"
            data-test="counts-in-force"
          >{{ t('topline.counts_short') }}</RouterLink> ·{{ ' ' }}
        </template>
        <button
          type="button"
          class="act"
          :aria-expanded="listed"
          data-test="list-open"
          @click="listed = !listed"
        >{{ t('topline.list_open') }}</button> ·
        <button
          type="button"
          class="act"
          :aria-pressed="showCodes"
          @click="setQuery({ codes: showCodes ? undefined : '1' })"
        >{{ showCodes ? t('topline.codes') : t('topline.labels') }}</button> ·
        <button
          type="button"
          class="act"
          @click="nextDecimals"
        >
          {{ t('topline.decimals', data.study.decimals) }}
        </button> ·
        <button
          type="button"
          class="act"
          :aria-pressed="proportions"
          data-test="proportions"
          :aria-label="t(`topline.${proportions ? 'as_proportions' : 'as_percents'}`)"
          :title="t(`topline.${proportions ? 'as_proportions' : 'as_percents'}`)"
          @click="setQuery({ as: proportions ? undefined : 'proportions' })"
        >{{ proportions ? t('topline.proportions') : t('topline.percents') }}</button> ·
        <button
          type="button"
          class="act"
          :aria-pressed="cumulative"
          data-test="cumulative"
          @click="setQuery({ cumulative: cumulative ? undefined : '1' })"
        >{{ t('topline.cumulative') }}</button> ·
        <RouterLink :to="`/studies/${studyId}/check`">{{ t('check.link') }}</RouterLink> <UndoSteps
          :undo="data.undo"
          :redo="data.redo"
          @step="undoStep"
        />
      </div>
    </template>
    <h1 v-else>{{ t('places.topline') }}</h1>
  </PlaceHead>
  <QuestionList v-if="listed && data" :questions="data.questions" @close="listed = false" @go="goTo" />
  <main id="page" tabindex="-1">
    <div v-if="error || failed || undoError || (loading && !data)" class="sheet tight">
      <ErrorNote v-if="error" :error="error" :action="t('app.retry')" @act="load" />
      <ErrorNote v-if="undoError" :error="undoError" />
      <ErrorNote v-if="failed" :error="failed" :action="t('app.reload')" @act="((failed = null), load())" />
      <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
    </div>
    <template v-if="data">
      <div
        v-if="data.notes.length"
        class="sheet tight"
        role="note"
        data-test="page-notes"
      ><p
        v-for="note in data.notes"
        :key="note"
        class="caution"
      >
        {{ note }}
      </p></div>
      <template
        v-for="(q, i) in data.questions"
        :key="q.id"
      >
        <div
          v-if="q.section !== (data.questions[i - 1]?.section ?? '')"
          class="beside"
        >
          <h2 class="section">
            {{ q.section || t('topline.no_section') }}
          </h2><div class="margin" />
        </div>
        <LazyQuestion
          :id="anchor(q)"
          :question="q"
          :eager="data.questions.length <= mostEager"
        >
          <QuestionBlock
            :id="anchor(q)"
            :of="of"
            :subgroups="data.subgroups"
            :questions="data.questions"
            :question="q"
            :study="data.study"
            :base="base"
            :show-codes="showCodes"
            :cumulative="cumulative"
            :proportions="proportions"
            @changed="replace"
            @reload="again"
            @page="show"
            @base="setQuery({ base: base === 'answered' ? 'everyone' : undefined })"
          />
        </LazyQuestion>
      </template>
    </template>
  </main>
</template>

<style scoped>
.tight {
  padding-bottom: 0;
}
.context b {
  color: var(--ink);
  font-weight: 600;
}
.context .act {
  font-weight: 400;
  color: var(--soft);
}
.context .act:hover {
  color: var(--teal);
}
.of {
  font-size: 14.5px;
  padding: 0 5px;
}
.caution {
  border-left: 3px double var(--rust);
  padding-left: 10px;
}
.force {
  font-weight: 600;
}
.section {
  font:
    600 13px 'Source Sans 3 Variable',
    sans-serif;
  letter-spacing: 0.08em;
  text-transform: uppercase;
  color: var(--soft);
  padding: 26px 0 0 34px;
}
</style>

<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { api } from '@/api/client'
import { areShown } from '@/app/firstSteps'
import { namesQuestion, numberIn, questionHash } from '@/app/questionHash'
import { whenIdle } from '@/app/idle'
import { lazily } from '@/app/later'
import { useSession } from '@/app/session'
import { useKeys } from '@/composables/useKeys'
import ErrorNote from '@/components/ErrorNote.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import { useUndo } from '@/composables/useUndo'

import FirstSteps from './components/FirstSteps.vue'
import QuestionBlock from './components/QuestionBlock.vue'
import ToplineHead from './components/ToplineHead.vue'

import { anchor, roomFor, useGroups } from './groups'
import { inTurn, stepTo, useNear } from './near'
import { useArriving } from './composables/useArriving'
import { useOpen } from './composables/useOpen'
import { useAskNext } from './composables/useAskNext'
import { mostAtOnce, useQuestions } from './composables/useQuestions'
import { useReading } from './composables/useReading'
import { useView } from './composables/useView'

import type { Outlined, StudyEdit, Topline } from '@/api/client'
import type { View } from './composables/useView'

const QuestionList = lazily(() => import('./components/QuestionList.vue'))

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { view, viewOf, set, setFor } = useView()
useOpen(studyId)
const reading = useReading()
const read = () => set({ read: reading.value ? undefined : '1' })
/** The question that the address names, by its place now, or as it was before that is known. */
const firstShown = (): number => named()?.number ?? numberIn(route.hash) ?? 1
const outline = shallowRef<Outlined[]>([])
const named = () => outline.value.find((q) => namesQuestion(route.hash, q))
const {
  data,
  changed,
  loading,
  error,
  run,
  loaded,
  want,
  fetchWanted,
  missing,
  replace,
  window: drawn,
} = useQuestions(studyId, view, viewOf, firstShown)
watch(() => data.value?.outline, (known) => (outline.value = known ?? []), { immediate: true, flush: 'sync' })
const { near, come, vNear, printsAll } = useNear(want)
printsAll(() => (data.value?.outline ?? []).map((q) => q.id))
const drawRest = inTurn({ near, come }, () => data.value?.outline ?? [], firstShown)
const failed = ref<Error | null>(null)
const eager = computed(() => (data.value?.outline.length ?? 0) <= mostAtOnce)

/** What is seen first is there alone at first; the rest of a long questionnaire follows. */
const whole = ref(false)
const afterFirst = 700
const groups = useGroups(() => data.value?.outline ?? [], whole, firstShown)

function register(page: Topline) {
  session.open(
    studyId.value,
    page.outline.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: questionHash(q) })),
  )
}
/** Before it is drawn, so that nothing is offered that would be refused. */
watch(data, (page) => page && (session.may = page.may), { immediate: true, flush: 'sync' })
onBeforeUnmount(() => (session.may = { ask: true, change: true }))

const { toHash, formsFetched } = useArriving(() => data.value?.outline ?? [], named, whole)

async function load() {
  const page = await run()
  if (!page) return
  if (!whole.value) setTimeout(() => (whole.value = true), eager.value ? 0 : afterFirst)
  await nextTick()
  toHash()
  requestAnimationFrame(() => {
    performance.mark('drawn')
    if (eager.value) whenIdle(() => void formsFetched().catch(() => undefined).then(drawRest))
  })
  setTimeout(() => register(page))
  await document.fonts.ready // lines break anew when the fonts come in
  toHash()
  // What is drawn on the way there takes its real height.
  if (!eager.value) for (const wait of [100, 300, 600]) setTimeout(toHash, wait)
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

onMounted(load)
watch([studyId, () => view.value.of, () => view.value.order], load)

const { askNext, askLike, lookAt } = useAskNext({
  outline,
  view,
  failed,
  /** Those who gave some answers, and are on the page, become a subgroup. */
  async subgroup(who) {
    const { id } = await api.subgroupOf(studyId.value, who)
    await again()
    return id
  },
  look: (of) => set({ of: String(of) }),
})
function orderChosen(question: Outlined, change: Partial<View>) {
  const wanted = { ...viewOf(question.number), ...change }
  setFor(question.number, change)
  if (change.order !== undefined)
    void api.question(studyId.value, question.id, wanted).then(replace, (cause: Error) => (failed.value = cause))
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

/** Whom the page is about; null when a damaged column keeps anybody from telling. */
const shownRows = computed(() => {
  const group = data.value?.subgroups.find((g) => g.id === view.value.of)
  if (group) return group.n
  const whole = [...loaded.value.values()].find((q) => q.damage === null)
  return data.value?.study.countQuestion === null ? data.value.study.rows : (whole?.everyone ?? null)
})

const { step: undoStep, error: undoError } = useUndo(studyId, again)

const listed = ref(false)
/** On a narrow screen the column lies over the page, so it folds away once it has served. */
function goTo(hash: string) {
  if (window.innerWidth < 1700) listed.value = false
  void router.push({ query: route.query, hash })
}
useKeys({ j: () => stepTo(1), k: () => stepTo(-1), l: () => (listed.value = !listed.value), R: read })
</script>

<template>
  <PlaceHead>
    <ToplineHead
      v-if="data"
      v-model:listed="listed"
      :page="data"
      :rows="shownRows"
      :view="view"
      @set="set"
      @edit="editStudy"
      @undo="undoStep"
      @read="read"
    />
    <h1 v-else>{{ t('places.topline') }}</h1>
  </PlaceHead>
  <QuestionList v-if="listed && data" :questions="data.outline" @close="listed = false" @go="goTo" />
  <main id="page" tabindex="-1">
    <div v-if="error || missing || failed || undoError || (loading && !data)" class="sheet tight">
      <ErrorNote v-if="error" :error="error" :action="t('app.retry')" @act="load" />
      <ErrorNote v-if="undoError" :error="undoError" />
      <ErrorNote v-if="missing" :error="missing" :action="t('app.retry')" @act="fetchWanted" />
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
      <FirstSteps v-if="areShown() && data.outline.length" />
      <div
        v-for="group in groups"
        :key="group.key"
        :class="{ group: !eager }"
        :style="eager ? undefined : group.questions.length
          ? { containIntrinsicHeight: `auto ${group.room}px` } : { height: `${group.room}px` }"
      >
        <template v-for="{ q, heads } in group.questions" :key="q.id">
          <div v-if="heads" class="beside">
            <h2 class="section">{{ q.section || t('topline.no_section') }}</h2><div class="margin" />
          </div>
            <QuestionBlock
              v-if="loaded.get(q.id) && near.has(q.id)"
              :id="anchor(q)"
              :view="viewOf(q.number)"
              :subgroups="data.subgroups"
              :questions="data.outline"
              :joins="data.joins"
              :question="loaded.get(q.id)!"
              :study="data.study"
              :drawn="drawn"
              @changed="changed"
              @reload="again"
              @page="show"
              @view="orderChosen(q, $event)"
              @base="set({ base: view.base === 'answered' ? 'everyone' : undefined })"
              @next="askNext"
              @these="lookAt"
              @pattern="askLike"
            />
          <section
            v-else
            :id="anchor(q)"
            v-near="q.id"
            class="question waiting"
            tabindex="-1"
            :style="{ minHeight: `${roomFor(q)}px` }"
            :aria-label="`${q.number}. ${q.wording}`"
            @focus="come([q.id])"
          >
            <h2>{{ q.number }} {{ q.wording }}</h2>
          </section>
        </template>
      </div>
    </template>
  </main>
</template>

<style scoped>
.tight {
  padding-bottom: 0;
}
.caution {
  border-left: 3px double var(--rust);
  padding-left: 10px;
}
.waiting { padding: 22px 30px 0 34px; scroll-margin-top: 62px; }
.group { content-visibility: auto; }
.waiting h2 { font-size: 19px; font-weight: 500; color: var(--soft); }
.section {
  font:
    600 13px 'Source Sans 3 Variable',
    sans-serif;
  letter-spacing: 0.08em;
  text-transform: uppercase;
  color: var(--soft);
  padding: 20px 0 0 34px;
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { ApiError, api } from '@/api/client'
import { questionHash } from '@/app/questionHash'
import { useSession } from '@/app/session'
import ErrorNote from '@/components/ErrorNote.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import UndoSteps from '@/components/UndoSteps.vue'
import { useUndo } from '@/composables/useUndo'
import { unfold } from '@/composables/useUnfolded'

import BulkBar from './components/BulkBar.vue'
import DesignPanel from './components/DesignPanel.vue'
import CodebookFiles from './components/CodebookFiles.vue'
import DeriveForm from '@/components/deriving/DeriveForm.vue'
import HistoryList from './components/HistoryList.vue'
import ListsPanel from './components/ListsPanel.vue'
import QuestionPanel from './components/QuestionPanel.vue'
import QuestionsTable from './components/QuestionsTable.vue'
import SubgroupsPanel from './components/SubgroupsPanel.vue'
import { useCodebook } from './useCodebook'

import type { DerivedEdit, Spec } from '@/api/client'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { data, loading, error, failed, run, attempt, edit, bulk, byId } = useCodebook(studyId)
const chosen = ref(new Set<number>())
const rule = ref<DerivedEdit['derivation']['rule'] | null>(null)

const tabs = ['questions', 'lists', 'subgroups', 'design', 'history', 'files'] as const
type Tab = (typeof tabs)[number]
const tab = computed<Tab>(() => tabs.find((x) => x === route.query.show) ?? 'questions')
const show = (to: Tab) => router.replace({ query: { show: to === 'questions' ? undefined : to } })
/** The question whose page of the codebook is open. */
const opened = computed(() => byId.value.get(Number(route.query.question)) ?? null)
const open = (id: number | null) => router.replace({ query: { ...route.query, question: id ?? undefined } })

async function load() {
  const book = await run()
  if (book) session.open(studyId.value, book.questions.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: questionHash(q) })))
}
onMounted(load)
watch(studyId, load)
const { error: undoError, step } = useUndo(studyId, load)
const ids = computed(() => [...chosen.value].filter((id) => byId.value.has(id)))
const picked = computed(() => ids.value.flatMap((id) => byId.value.get(id) ?? []).sort((a, b) => a.number - b.number))

async function derive(body: DerivedEdit) {
  if (await attempt(() => api.addDerived(studyId.value, body))) {
    rule.value = null
    chosen.value = new Set()
  }
}
/** What is asked of several stands under the first of them. */
async function ask(spec: Spec) {
  const first = picked.value[0]
  const state = async () => unfold(studyId.value, `a${(await api.stateAnalysis(studyId.value, spec, false)).analysisId}`)
  if (first && (await attempt(state))) await router.push(`/studies/${studyId.value}${questionHash(first)}`)
}
const mergeEach = (all: DerivedEdit[]) =>
  attempt(async () => {
    for (const one of all) await api.addDerived(studyId.value, one)
    chosen.value = new Set()
  })
const problem = computed(() => error.value ?? failed.value ?? undoError.value)
</script>

<template>
  <PlaceHead>
    <h1>{{ t('codebook.title') }}</h1>
    <span
      v-if="data"
      class="context"
    >{{ data.study.name }} · {{ t('topline.questions', data.questions.length) }} <UndoSteps
      :undo="data.undo"
      :redo="data.redo"
      @step="step"
    /></span>
  </PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <ErrorNote
      v-if="problem"
      :error="problem"
      :action="problem instanceof ApiError && problem.isStale ? t('app.reload') : t('app.retry')"
      @act="((failed = null), load())"
    />
    <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
    <template v-if="data">
      <p class="acts tabs">
        <button
          v-for="x in tabs"
          :key="x"
          type="button"
          class="act"
          :aria-pressed="tab === x"
          :data-test="`tab-${x}`"
          @click="show(x)"
        >{{ t(`codebook.tabs.${x}`) }}</button>
        <RouterLink class="act" :to="`/studies/${studyId}/responses`">{{ t('responses.title') }}</RouterLink>
        <RouterLink class="act" :to="`/studies/${studyId}/check`">{{ t('places.check') }}</RouterLink>
      </p>
      <template v-if="tab === 'questions'">
        <BulkBar
          v-if="picked.length"
          :questions="picked"
          :lists="data.lists"
          @bulk="(change) => bulk(ids, change)"
          @derive="rule = $event"
          @ask="ask"
          @merge="mergeEach"
          @clear="chosen = new Set()"
        />
        <p v-else class="soft small">{{ t('codebook.hint') }}</p>
        <DeriveForm
          v-if="rule && picked.length"
          :key="rule"
          :rule="rule"
          :questions="picked"
          @save="derive"
          @cancel="rule = null"
        />
        <div class="split" :class="{ open: opened }">
          <QuestionsTable
            v-model="chosen"
            :questions="data.questions"
            :lists="data.lists"
            :opened="opened?.id ?? null"
            @open="open"
            @wording="(q, wording) => edit(q, { wording })"
          />
          <QuestionPanel
            v-if="opened"
            :key="opened.id"
            :question="opened"
            :questions="data.questions"
            :lists="data.lists"
            @edit="edit(opened, $event)"
            @bulk="bulk([opened.id], $event)"
            @rederive="attempt(() => api.editDerived(studyId, opened!.id, opened!.version, $event))"
            @remove="attempt(() => api.deleteQuestion(studyId, opened!.id, opened!.version))"
            @close="open(null)"
          />
        </div>
      </template>
      <ListsPanel
        v-else-if="tab === 'lists'"
        :lists="data.lists"
        :questions="data.questions"
        @add="(body) => attempt(() => api.addList(studyId, body))"
        @save="(l, body) => attempt(() => api.editList(studyId, l.id, l.version, body))"
        @remove="(l) => attempt(() => api.deleteList(studyId, l.id))"
      />
      <SubgroupsPanel
        v-else-if="tab === 'subgroups'"
        :study-id="studyId"
        :subgroups="data.subgroups"
        :questions="data.questions"
        @add="(body) => attempt(() => api.addSubgroup(studyId, body))"
        @save="(g, body) => attempt(() => api.editSubgroup(studyId, g.id, g.version, body))"
        @remove="(g) => attempt(() => api.deleteSubgroup(studyId, g.id))"
      />
      <DesignPanel
        v-else-if="tab === 'design'"
        :study-id="studyId"
        :units="data.study.units"
        :questions="data.questions"
        @saved="load"
      />
      <HistoryList v-else-if="tab === 'history'" :study-id="studyId" />
      <CodebookFiles v-else :study-id="studyId" :questions="data.questions" @applied="load" />
    </template>
  </main>
</template>

<style scoped>
.sheet { padding-bottom: 20px; }
.tabs { margin-bottom: 12px; }
.tabs a { text-decoration: none; }
.split { display: grid; grid-template-columns: minmax(0, 1fr); gap: 26px; }
.split.open { grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr); }
@media (max-width: 1000px) { .split.open { grid-template-columns: minmax(0, 1fr); } }
</style>

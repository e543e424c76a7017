<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { api } from '@/api/client'
import { useSession } from '@/app/session'
import ErrorNote from '@/components/ErrorNote.vue'
import InlineText from '@/components/InlineText.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import SafeToPublish from '@/components/SafeToPublish.vue'
import UndoSteps from '@/components/UndoSteps.vue'
import WritingLine from '@/components/WritingLine.vue'
import { useDownload } from '@/composables/useDownload'
import { useUndo } from '@/composables/useUndo'

import NextWave from './NextWave.vue'
import PieceActs from './PieceActs.vue'
import ProseEditor from './ProseEditor.vue'
import ReportBlocks from './ReportBlocks.vue'
import SurveyFacts from './SurveyFacts.vue'
import { useReport } from './useReport'

import type { ReportDefinition } from '@/api/client'

/** The report as it will be read; what can be done with a piece stands in the margin beside it. */
const { t } = useI18n()
const route = useRoute()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { data, loading, error, failed, run, store, pieces, blocks, front, back, move, remove, edit, write } = useReport(studyId)
async function load() {
  if (await run()) session.open(studyId.value, [])
}
onMounted(load)
watch(studyId, load)
const { error: undoError, step } = useUndo(studyId, load)

/** Prose that is written now: a piece, or what will stand before one or at the end. */
const writing = ref<{ id: number | null; before: number | null } | null>(null)
const telling = ref(false)
const waving = ref(false)
async function waved() {
  waving.value = false
  await load()
}
const proseOf = (id: number | null) => pieces.value.find((p) => p.id === id)?.prose ?? ''
async function keepProse(text: string) {
  if (writing.value && (await write(writing.value.id, writing.value.before, text))) writing.value = null
}
async function keepFacts(facts: { key: string; text: string }[]) {
  if (await store((r) => (r.facts = facts))) telling.value = false
}
const lacking = computed(() => (data.value?.disclosed ?? []).filter((d) => !d.said).map((d) => d.name.toLowerCase()))
type Part = NonNullable<ReportDefinition['without']>[number]
const parts = computed<Part[]>(() => ['facts', ...(data.value?.report.compared ? (['changes'] as const) : []), 'methods', 'claims'])
const has = (part: Part) => !(data.value?.report.without ?? []).includes(part)
const switchPart = (part: Part) => store((r) => {
  r.without = has(part) ? [...(r.without ?? []), part] : (r.without ?? []).filter((p) => p !== part)
})
const { writing: writingFile, percent, error: unwritten, take, stop } = useDownload()
const print = () => window.print()
</script>

<template>
  <PlaceHead>
    <h1>{{ t('places.report') }}</h1>
    <span v-if="data" class="context">{{ data.study.name }} <UndoSteps
      :undo="data.undo"
      :redo="data.redo"
      @step="step"
    /></span>
  </PlaceHead>
  <main id="page" class="sheet report" tabindex="-1">
    <ErrorNote
      v-if="error ?? failed ?? undoError ?? unwritten"
      :error="(error ?? failed ?? undoError ?? unwritten)!"
      :action="t('app.retry')"
      @act="load"
    />
    <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
    <template v-if="data">
      <p class="acts bar">
        <v-menu>
          <template #activator="{ props: activator }">
            <v-btn v-bind="activator" variant="flat" color="primary" data-test="save-as">{{ t('report_page.save_as') }}</v-btn>
          </template>
          <v-list :aria-label="t('report_page.save_as')">
            <v-list-item
              v-for="f in data.forms"
              :key="f"
              :title="t(`report_page.form.${f}`)"
              :data-test="`save-${f}`"
              @click="take(api.reportFile(studyId, f), t(`report_page.form.${f}`))"
            />
            <v-list-item
              :title="t('report_page.recipe')"
              data-test="save-recipe"
              @click="take(api.recipeFile(studyId), t('report_page.recipe'))"
            />
            <v-list-item
              :title="t('report_page.study')"
              data-test="save-study"
              @click="take(api.studyFile(studyId), t('report_page.study'))"
            />
          </v-list>
        </v-menu>
        <button type="button" class="act" data-test="print" @click="print">{{ t('report_page.print') }}</button>
        <button
          type="button"
          class="act"
          data-test="write-end"
          @click="writing = { id: null, before: null }"
        >{{ t('report_page.write_end') }}</button>
        <button
          v-if="session.may.change"
          type="button"
          class="act"
          :aria-expanded="waving"
          data-test="next-wave-open"
          @click="waving = !waving"
        >{{ t('next_wave.act') }}</button>
        <button
          v-for="p in parts"
          :key="p"
          type="button"
          class="act"
          :aria-pressed="has(p)"
          :data-test="`part-${p}`"
          @click="switchPart(p)"
        >{{ t(`report_page.part.${p}`) }}{{ has(p) ? ' ✓' : '' }}</button>
      </p>
      <NextWave v-if="waving" :study="studyId" @taken="waved" @leave="waving = false" />
      <WritingLine v-if="writingFile" :name="writingFile" :percent="percent" @stop="stop" />
      <h2 class="title"><InlineText
        :text="data.report.title ?? ''"
        :shown="data.made.title"
        :label="t('report_page.title')"
        :maxlength="300"
        clearable
        @save="(text) => store((r) => (r.title = text))"
      /></h2>
      <p class="soft small">{{ data.made.of }}</p>
      <SafeToPublish :study="studyId" :may="session.may.change" :state="data.undo?.id" @changed="load" />
      <p v-if="pieces.length === 0" class="lead empty" data-test="report-empty">{{ t('report_page.empty') }}
        <RouterLink :to="`/studies/${studyId}`">{{ t('report_page.to_topline') }}</RouterLink></p>

      <section v-if="has('facts')" class="beside tall">
        <div>
          <SurveyFacts v-if="telling" :page="data" @keep="keepFacts" @leave="telling = false" />
          <ReportBlocks v-else :blocks="front" />
        </div>
        <aside class="margin">
          <button
            v-if="!telling"
            type="button"
            class="act"
            data-test="facts-edit"
            @click="telling = true"
          >{{ t('report_page.tell') }}</button>
          <p
            v-if="lacking.length"
            class="soft small"
            data-test="facts-lacking"
          >{{ t('report_page.lacking', { list: lacking.join(', ') }) }}</p>
        </aside>
      </section>

      <section v-for="(p, i) in pieces" :key="p.id" class="beside tall" :data-test="`piece-${p.id}`">
        <div>
          <ProseEditor
            v-if="writing && writing.id === null && writing.before === p.id"
            text=""
            :offers="data.offers"
            @keep="keepProse"
            @leave="writing = null"
          />
          <ProseEditor
            v-if="writing?.id === p.id"
            :text="proseOf(p.id)"
            :offers="data.offers"
            @keep="keepProse"
            @leave="writing = null"
          />
          <ReportBlocks v-else :blocks="blocks.get(p.id) ?? []" />
        </div>
        <aside class="margin">
          <PieceActs
            :piece="p"
            :page="data"
            :first="i === 0"
            :last="i === pieces.length - 1"
            @move="(by) => move(p.id, by)"
            @remove="remove(p.id)"
            @edit="(change) => edit(p.id, change)"
            @open="writing = { id: p.id, before: null }"
            @write="writing = { id: null, before: p.id }"
          />
        </aside>
      </section>
      <ProseEditor
        v-if="writing && writing.id === null && writing.before === null"
        text=""
        :offers="data.offers"
        @keep="keepProse"
        @leave="writing = null"
      />
      <section class="beside tall"><div><ReportBlocks :blocks="back" /></div><aside class="margin" /></section>
    </template>
  </main>
</template>

<style scoped>
.bar { align-items: center; margin-bottom: 18px; }
.title { font-size: 29px; }
.empty { margin: 18px 0; }
.tall > div { padding-right: 30px; min-width: 0; }
.margin { padding-top: 8px; }
@page { margin: 2cm; @bottom-right { content: counter(page) ' / ' counter(pages); } }
@media print {
  .head, .bar, .margin { display: none; }
  .beside { display: block; }
}
</style>

<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { ApiError, api } from '@/api/client'
import { questionHash } from '@/app/questionHash'
import { useSession } from '@/app/session'
import ErrorNote from '@/components/ErrorNote.vue'
import { count } from '@/app/format'
import PlaceHead from '@/components/PlaceHead.vue'
import UndoSteps from '@/components/UndoSteps.vue'
import { useLoad } from '@/composables/useLoad'
import { useUndo } from '@/composables/useUndo'
import { useWindow } from '@/composables/useWindow'

import ResponseRows from './ResponseRows.vue'
import { useLines } from './useLines'

import type { Find } from './useLines'

/** The respondents' rows: scrolled whatever their number, searched, corrected. */
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { data: book, error, run } = useLoad(() => [studyId.value, 'codebook'], (signal) => api.codebook(studyId.value, signal), true)
const rowHeight = 30
/** Browsers stop growing an element at some tens of millions of pixels. */
const mostRows = 1_000_000

const labels = computed(() => route.query.labels !== '0')
const find = computed<Find>(() => ({ question: Number(route.query.question ?? 0), text: String(route.query.text ?? '') }))
const { total, line, need, reset, error: linesError } = useLines(studyId, labels, find)
const scroller = useTemplateRef<HTMLElement>('scroller')
const { scrolled, first, last, above, below } = useWindow(scroller, () => Math.min(total.value, mostRows), rowHeight)
watch([first, last], () => need(first.value, last.value))

const question = ref(0)
const text = ref('')
async function load() {
  const found = await run()
  if (!found) return
  session.open(studyId.value, found.questions.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: questionHash(q) })))
  question.value = find.value.question || (found.questions[0]?.id ?? 0)
  text.value = find.value.text
  reset()
  need(first.value, last.value)
}
onMounted(load)
watch([studyId, labels, find], load, { deep: true })
const { step, error: undoError } = useUndo(studyId, load)

function search() {
  void router.replace({
    query: { ...route.query, question: text.value ? String(question.value) : undefined, text: text.value || undefined },
  })
  if (scroller.value) scroller.value.scrollTop = 0
}

const editing = ref<{ row: number; at: number; text: string; isNew: boolean } | null>(null)
const failed = shallowRef<Error | null>(null)
async function edit(row: number, at: number, cell: string) {
  if (book.value?.questions[at]?.derivation) return
  editing.value = { row, at, text: cell, isNew: false }
  failed.value = null
  await nextTick()
  document.querySelector<HTMLInputElement>('.cell-edit')?.select()
}
async function save() {
  const e = editing.value
  const q = e ? book.value?.questions[e.at] : undefined
  if (!e || !q) return
  failed.value = null
  try {
    await api.correctCell(studyId.value, q.id, q.version, e.row, e.text, e.isNew)
    editing.value = null
    await load()
  } catch (cause) {
    failed.value = cause as Error
  }
}
const isUnknown = computed(() => failed.value instanceof ApiError && failed.value.code === 'cell.unknown')
async function saveNew() {
  if (editing.value) editing.value.isNew = true
  await save()
}
const rows = computed(() => Array.from({ length: Math.max(0, last.value - first.value) }, (_, i) => first.value + i))
</script>

<template>
  <PlaceHead>
    <h1>{{ t('responses.title') }}</h1>
    <span v-if="book" class="context">
      {{ book.study.name }} · {{ t('responses.rows', { n: count(total) }, total) }} ·
      <button
        type="button"
        class="act"
        :aria-pressed="!labels"
        @click="router.replace({ query: { ...route.query, labels: labels ? '0' : undefined } })"
      >{{ labels ? t('topline.labels') : t('topline.codes') }}</button>
      <UndoSteps :undo="book.undo" :redo="book.redo" @step="step" />
    </span>
  </PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <ErrorNote v-if="error ?? linesError ?? undoError" :error="(error ?? linesError ?? undoError)!" :action="t('app.retry')" @act="load" />
    <form v-if="book" class="acts find" @submit.prevent="search">
      <v-autocomplete
        v-model="question"
        class="blank"
        :items="book.questions.map((q) => ({ value: q.id, title: `${q.number} · ${q.name}` }))"
        :label="t('responses.where')"
        :no-data-text="t('app.nothing_found')"
        auto-select-first
        data-test="find-question"
      />
      <v-text-field
        v-model="text"
        class="blank"
        :label="t('responses.holds')"
        maxlength="200"
        clearable
        data-test="find-text"
        @click:clear="((text = ''), search())"
      />
      <button type="submit" class="act" data-test="find-rows">{{ t('responses.find') }}</button>
      <span class="soft small">{{ t('responses.hint') }}</span>
    </form>
    <div
      v-if="failed"
      class="fail"
    >
      <ErrorNote
        :error="failed"
        :action="isUnknown ? t('responses.as_new') : t('app.reload')"
        @act="isUnknown ? saveNew() : (((editing = null), (failed = null)), load())"
      />
    </div>
    <p v-if="total > mostRows" class="soft">{{ t('responses.first_only', { n: count(mostRows) }) }}</p>
    <div
      ref="scroller"
      class="window"
      tabindex="0"
      role="region"
      :aria-label="t('responses.title')"
      @scroll.passive="scrolled"
    >
      <ResponseRows
        v-if="book"
        :questions="book.questions"
        :rows="rows"
        :line="line"
        :total="total"
        :above="above"
        :below="below"
        :editing="editing"
        @edit="edit"
        @typed="editing && (editing.text = $event)"
        @save="save"
        @cancel="editing = null"
      />
    </div>
  </main>
</template>

<style scoped>
.sheet {
  padding-bottom: 16px;
}
.find {
  margin-bottom: 12px;
  align-items: baseline;
}
.blank {
  flex: 0 1 260px;
}
.window {
  position: relative;
  height: calc(100vh - 170px);
  overflow: auto;
  border-top: 1px solid var(--rule);
}
.fail {
  max-width: 760px;
}
</style>

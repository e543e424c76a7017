<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

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

import BannerEditor from './BannerEditor.vue'
import BatteryEditor from './BatteryEditor.vue'
import BookSentence from './BookSentence.vue'
import BookTableView from './BookTableView.vue'
import { useBooks } from './useBooks'
import { useTables } from './useTables'

import type { ReportForm } from '@/api/client'

/** Table books: every question by the same columns, seen as they will leave. */
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const chosen = computed(() => Number(route.query.book) || 0)
const {
  data, loading, error, failed, run, book, banner, byKey, change, arrange, rename, addBanner, addBook, removeBook, setNets,
} = useBooks(studyId, chosen)
async function load() {
  if (await run()) session.open(studyId.value, [])
}
onMounted(load)
watch(studyId, load)
const { error: undoError, step } = useUndo(studyId, load)

const isSound = (of: { problems: unknown[] } | null | undefined) => of != null && of.problems.length === 0
const bookId = computed(() => (isSound(book.value) && isSound(banner.value) ? book.value!.id : null))
/** All on which the tables depend. */
const state = computed(() =>
  JSON.stringify([book.value?.version, banner.value?.version, data.value?.netsVersion, data.value?.undo?.id, data.value?.study.version]))
const { captions, design, tables, error: unmade, chance, near, begin } = useTables(studyId, bookId, state)
const { writing, percent, error: unwritten, take, stop } = useDownload()
const battering = ref(false)
const may = computed(() => session.may.ask)

const open = (id: number) => void router.replace({ query: { ...route.query, book: String(id) } })
/** A first book of all questions by everyone, to which columns are added. */
async function start() {
  let by: number | null = data.value?.banners[0]?.id ?? null
  by ??= await addBanner(t('tables.first_banner'), { breaks: [{}] })
  if (by === null) return
  const id = await addBook(t('tables.first_book'), {
    banner: String(by), choice: { which: 'all' }, few: 30, differences: { against: 'columns' },
  })
  if (id) open(id)
}
async function another() {
  const of = book.value?.book
  if (!of) return start()
  const id = await addBook(of.title ?? t('tables.first_book'), of)
  if (id) open(id)
}
async function choose(id: number | null) {
  if (id === null) id = await addBanner(t('tables.first_banner'), { breaks: [{}] })
  if (id) await change((b) => (b.banner = String(id)))
}
const forms: { form: ReportForm; sheets?: 'one'; id: string }[] = [
  { form: 'xlsx', id: 'xlsx' }, { form: 'xlsx', sheets: 'one', id: 'xlsx_one' }, { form: 'docx', id: 'docx' },
  { form: 'odt', id: 'odt' }, { form: 'html', id: 'html' }, { form: 'figures', id: 'figures' }, { form: 'csv', id: 'csv' },
  { form: 'ods', id: 'ods' }, { form: 'json', id: 'json' }, { form: 'md', id: 'md' }, { form: 'tex', id: 'tex' },
]
const taken = computed(() => new Set((book.value?.book.batteries ?? []).flatMap((b) => b.questions)))
const batteryName = (i: number) => {
  const b = book.value?.book.batteries?.[i]
  return b?.label || b?.questions.map((key) => byKey.value.get(key)?.name ?? '').join(', ') || ''
}
const problems = computed(() => book.value?.problems ?? [])
const isDesigned = computed(() => design.value.length > 0 || book.value?.book.unweighted === true)
</script>

<template>
  <PlaceHead>
    <h1>{{ t('places.tables') }}</h1>
    <span v-if="data" class="context">{{ data.study.name }} <UndoSteps :undo="data.undo" :redo="data.redo" @step="step" /></span>
  </PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <ErrorNote
      v-if="error ?? failed ?? undoError ?? unwritten ?? unmade"
      :error="(error ?? failed ?? undoError ?? unwritten ?? unmade)!"
      :action="t('app.retry')"
      @act="load().then(begin)"
    />
    <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
    <div v-if="data && !book" class="empty">
      <p class="lead">{{ may ? t('tables.empty') : t('tables.empty_reader') }}</p>
      <v-btn v-if="may" variant="flat" color="primary" data-test="start-book" @click="start">{{ t('tables.start') }}</v-btn>
    </div>
    <template v-if="data && book">
      <nav v-if="data.books.length > 1" class="books acts" :aria-label="t('tables.books')">
        <button
          v-for="b in data.books"
          :key="b.id"
          type="button"
          class="act"
          :aria-current="b.id === book.id ? 'page' : undefined"
          :data-test="`book-${b.id}`"
          @click="open(b.id)"
        >{{ b.book.title }}</button>
      </nav>
      <p class="acts bar">
        <v-menu>
          <template #activator="{ props: activator }">
            <v-btn
              v-bind="activator"
              variant="flat"
              color="primary"
              :disabled="bookId === null"
              data-test="save-book"
            >{{ t('report_page.save_as') }}</v-btn>
          </template>
          <v-list :aria-label="t('report_page.save_as')">
            <v-list-item
              v-for="f in forms"
              :key="f.id"
              :title="t(`tables.form.${f.id}`)"
              :data-test="`save-${f.id}`"
              @click="take(api.bookFile(studyId, book!.id, f.form, f.sheets), t(`tables.form.${f.id}`))"
            />
          </v-list>
        </v-menu>
        <template v-if="may">
          <button
            type="button"
            class="act"
            data-test="battery"
            :aria-expanded="battering"
            @click="battering = !battering"
          >{{ t('tables.battery.act') }}</button>
          <button type="button" class="act" data-test="another-book" @click="another">{{ t('tables.another') }}</button>
          <button type="button" class="act" data-test="delete-book" @click="removeBook(book.id)">{{ t('tables.delete') }}</button>
        </template>
      </p>
      <WritingLine v-if="writing" :name="writing" :percent="percent" @stop="stop" />
      <h2 class="title"><InlineText
        :text="book.book.title ?? ''"
        :shown="book.book.title ?? ''"
        :label="t('tables.title')"
        :maxlength="120"
        @save="(text) => change((b) => (b.title = text))"
      /></h2>
      <BookSentence :book="book.book" :page="data" :designed="isDesigned" @change="change" @banner="choose" />
      <SafeToPublish :study="studyId" :may="session.may.change" :state="state" @changed="load" />
      <p v-for="p in problems" :key="p.pointer" class="problem">{{ p.text }}</p>
      <p v-for="n in (book.book.batteries ?? []).length" :key="n" class="soft small acts">
        {{ t('tables.battery.has', { name: batteryName(n - 1) }) }}
        <button
          v-if="may"
          type="button"
          class="act"
          @click="change((x) => x.batteries!.splice(n - 1, 1))"
        >{{ t('tables.battery.apart') }}</button>
      </p>
      <BatteryEditor
        v-if="battering"
        :questions="data.questions"
        :taken="taken"
        @keep="(b) => { battering = false; change((x) => (x.batteries = [...(x.batteries ?? []), b])) }"
        @leave="battering = false"
      />
      <template v-if="banner">
        <h3 class="by">{{ t('tables.banner.title') }} <InlineText
          :text="banner.name"
          :shown="banner.name"
          :label="t('tables.banner.name')"
          :maxlength="120"
          @save="rename"
        /></h3>
        <BannerEditor
          :banner="banner.banner"
          :page="data"
          :by-key="byKey"
          :problems="banner.problems"
          @arrange="arrange"
        />
      </template>
      <p v-if="chance" class="lead" data-test="chance">{{ chance }}</p>
      <p v-for="d in design" :key="d" class="soft small">{{ d }}</p>
      <p v-if="bookId !== null && captions.length === 0 && !loading" class="soft">{{ t('tables.none') }}</p>
      <BookTableView
        v-for="(c, i) in captions"
        :key="`${book.id} ${i}`"
        :number="i + 1"
        :caption="c"
        :table="tables.get(i)"
        :question="tables.get(i)?.questions.length === 1 ? byKey.get(String(tables.get(i)!.questions[0])) : undefined"
        :may="may"
        @near="near(i)"
        @nets="(nets, ofList) => setNets(tables.get(i)!.questions[0]!, nets, ofList)"
      />
    </template>
  </main>
</template>

<style scoped>
.bar { align-items: center; margin-bottom: 12px; }
.books { margin-bottom: 12px; gap: 4px 18px; }
.books [aria-current] { font-weight: 650; color: var(--ink); text-decoration: none; border-bottom: 2px solid var(--teal); }
.title { font-size: 27px; margin-bottom: 4px; }
.by { font: 600 15.5px/1.4 'Source Sans 3 Variable', sans-serif; margin: 12px 0 4px; }
.lead { max-width: 900px; margin: 6px 0 4px; }
.empty { margin: 18px 0; display: grid; gap: 14px; justify-items: start; }
.problem { color: var(--rust); margin: 2px 0; }
@media print {
  .head, .bar, .books { display: none; }
}
</style>

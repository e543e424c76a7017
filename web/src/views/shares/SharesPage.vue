<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'

import { api, ApiError } from '@/api/client'
import { lazily } from '@/app/later'
import { useSession } from '@/app/session'
import { who } from '@/app/who'
import ErrorNote from '@/components/ErrorNote.vue'
import { count, moment, published } from '@/app/format'
import PlaceHead from '@/components/PlaceHead.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useShares } from '@/composables/useShares'

import SetForm from './SetForm.vue'
import TableTake from './TableTake.vue'

import type { OfficeTable, Shared, ShareSet, ShareSetBody, StatTable } from '@/api/client'

/** The shelf: expected and published shares, each with where it comes from. */
const { t } = useI18n()
const session = useSession()
const { sets, error: listError, loading, again } = useShares()
const { error, attempt } = useAttempt()
const busy = ref(false)
const ShareDialog = lazily(() => import('@/components/ShareDialog.vue'))
const sharing = ref<Shared | null>(null)

type Way = '' | 'type' | 'file' | 'office'
const way = ref<Way>('')
const start = shallowRef<Partial<ShareSetBody>>({})
const editing = ref(0)
const file = shallowRef<Blob | null>(null)
const tables = shallowRef<OfficeTable[] | null>(null)
const table = ref('')
const versions = shallowRef<{ id: number; sets: ShareSet[] } | null>(null)

function open(to: Way) {
  way.value = way.value === to && !editing.value ? '' : to
  error.value = null
  start.value = {}
  editing.value = 0
  file.value = null
  table.value = ''
  if (way.value === 'office') void browse()
}
async function browse() {
  tables.value = null
  const found = await attempt(() => api.officeTables())
  tables.value = found?.value.tables ?? null
}
function picked(event: Event) {
  error.value = null
  file.value = (event.target as HTMLInputElement).files?.[0] ?? null
}
function take(from: Partial<ShareSetBody>) {
  start.value = from
  way.value = 'type'
}
const fromTable = computed(() => {
  const chosen = file.value
  if (way.value === 'file' && chosen)
    return (dim: string, fix: Record<string, string>): Promise<StatTable> => api.readTable(chosen, dim, fix)
  const id = way.value === 'office' ? table.value : ''
  return id ? (dim: string, fix: Record<string, string>): Promise<StatTable> => api.officeTable(id, dim, fix) : null
})

async function save(set: ShareSetBody) {
  busy.value = true
  const done = await attempt(() => {
    const now = sets.value.find((s) => s.id === editing.value)
    return now ? api.editShares(now.id, now.version, set) : api.addShares(set)
  })
  busy.value = false
  if (!done) return
  open('')
  await again()
}
async function remove(set: ShareSet) {
  if (!(await attempt(() => api.deleteShares(set.id)))) return
  await again()
  session.offerUndo(t('shares.deleted', { title: set.title }), async () => {
    if (await attempt(() => api.restoreShares(set.id))) await again()
  })
}
async function showVersions(set: ShareSet) {
  if (versions.value?.id === set.id) versions.value = null
  else {
    const found = await attempt(() => api.shareVersions(set.id))
    if (found) versions.value = { id: set.id, sets: found.value.sets }
  }
}
const provenance = (s: ShareSet) =>
  [s.publisher, s.date, s.population, s.place, t(`ask.goodness_of_fit.options.shares.source.kind.${s.kind}`), s.n
    ? t('shares.n_of', { n: count(s.n) }) : ''].filter(Boolean).join(' · ')
const figures = (s: ShareSet) => s.answers.map((a) => `${a.label} ${a.figure}`).join(' · ')
</script>

<template>
  <PlaceHead>
    <h1>{{ t('shares.title') }}</h1>
    <span class="context">{{ t('shares.lead') }}</span>
  </PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <p class="acts ways">
      <button
        type="button"
        class="act"
        :aria-expanded="way === 'type' && !editing"
        data-test="add-typed"
        @click="open('type')"
      >{{ t('shares.add') }}</button>
      <button
        type="button"
        class="act"
        :aria-expanded="way === 'file'"
        data-test="add-file"
        @click="open('file')"
      >{{ t('shares.from_file') }}</button>
      <button
        type="button"
        class="act"
        :aria-expanded="way === 'office'"
        data-test="add-office"
        @click="open('office')"
      >{{ t('shares.from_office') }}</button>
    </p>
    <ErrorNote
      v-if="error ?? listError"
      :error="(error ?? listError)!"
      :action="error instanceof ApiError && error.isStale ? t('app.reload') : way === 'office' ? t('app.retry') : undefined"
      @act="way === 'office' ? browse() : again()"
    />
    <label
      v-if="way === 'file'"
      class="file"
    >{{ t('shares.file_hint') }} <input type="file" accept=".json,.csv" data-test="table-file" @change="picked" /></label>
    <template v-if="way === 'office'">
      <p v-if="tables === null && !error" class="soft">{{ t('app.loading') }}</p>
      <ul v-else-if="tables" class="tables" data-test="office-tables">
        <li
          v-for="o in tables"
          :key="o.id"
        ><button
          type="button"
          class="act"
          :aria-pressed="table === o.id"
          @click="table = o.id"
        >{{ o.title }}</button> <span class="soft small">{{ published(o.updated) }}</span></li>
      </ul>
    </template>
    <TableTake v-if="fromTable && way !== 'type'"
:key="table || String(file?.size)"
:load="fromTable"
@take="take"
@cancel="open('')" />
    <SetForm v-if="way === 'type' && !editing"
:start="start"
:busy="busy"
@save="save"
@cancel="open('')" />

    <p v-if="!sets.length && !loading" class="lead">{{ t('shares.empty') }}</p>
    <article v-for="s in sets" :key="s.id" class="set" data-test="share-set">
      <h2>{{ s.title }}</h2>
      <p class="soft">{{ provenance(s) }}</p>
      <p>{{ figures(s) }} <span class="soft">({{ t(`ask.goodness_of_fit.options.shares.scale.${s.scale}`) }})</span></p>
      <p v-if="s.note" class="soft small">{{ s.note }}</p>
      <p class="acts small">
        <span class="soft">{{ t('shares.version', { n: s.version, date: moment(s.at) }) }}</span>
        <a v-if="s.link"
class="act"
:href="s.link"
rel="noreferrer noopener"
target="_blank">{{ t('shares.link') }}</a>
        <button
          type="button"
          class="act"
          :aria-expanded="editing === s.id"
          data-test="set-edit"
          @click="way = ''; editing = editing === s.id ? 0 : s.id"
        >{{ t('shares.change') }}</button>
        <button
          v-if="s.version > 1"
          type="button"
          class="act"
          :aria-expanded="versions?.id === s.id"
          data-test="set-versions"
          @click="showVersions(s)"
        >{{ t('shares.versions') }}</button>
        <button v-if="who"
type="button"
class="act"
data-test="set-share"
@click="sharing = { kind: 'set', id: s.id, name: s.title }">{{ t('people.share') }}</button>
        <button type="button" class="act" data-test="set-delete" @click="remove(s)">{{ t('shares.delete') }}</button>
      </p>
      <SetForm v-if="editing === s.id"
:start="s"
:busy="busy"
@save="save"
@cancel="editing = 0" />
      <ul v-if="versions?.id === s.id" class="small soft">
        <li
          v-for="v in versions.sets"
          :key="v.version"
        >{{ t('shares.version', { n: v.version, date: moment(v.at) }) }}: {{ figures(v) }}</li>
      </ul>
    </article>
    <ShareDialog v-if="sharing" :of="sharing" :model-value="true" @update:model-value="sharing = null" />
  </main>
</template>

<style scoped>
.ways { margin-bottom: 12px; }
.set { border-top: 1px solid var(--hair); padding: 14px 0 10px; max-width: 900px; }
.set h2 { font: 600 18px/1.35 'Source Serif 4 Variable', serif; }
.set .acts { margin-top: 4px; align-items: baseline; }
.tables { list-style: none; padding: 0; margin: 4px 0 12px; }
.file { display: block; margin: 4px 0 12px; }
ul { padding-left: 18px; }
</style>

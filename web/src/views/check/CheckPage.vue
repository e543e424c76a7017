<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { api } from '@/api/client'
import { questionHash } from '@/app/questionHash'
import { useSession } from '@/app/session'
import CheckTable from '@/components/CheckTable.vue'
import { applyRemedy } from '@/api/remedy'
import ErrorNote from '@/components/ErrorNote.vue'
import { bytes, count, moment } from '@/app/format'
import PlaceHead from '@/components/PlaceHead.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { CheckedQuestion, Remedy, Found, Kind } from '@/api/client'

/** The arrival check of a kept study: always reachable again, and printable. */
const { t } = useI18n()
const route = useRoute()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { data, loading, error, run } = useLoad(() => [studyId.value, 'check'], (signal) => api.check(studyId.value, signal), true)
const { error: failed, attempt } = useAttempt(() => load())

async function load() {
  const found = await run()
  if (found) session.open(studyId.value, found.questions.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: questionHash(q) })))
}
onMounted(load)
watch(studyId, load)


const one = (q: CheckedQuestion) => [{ id: q.id, version: q.version }]
const asKind = (q: CheckedQuestion, kind: Kind) => attempt(() => api.editMany(studyId.value, { questions: one(q), kind }))

const press = (q: CheckedQuestion, c: Remedy) => attempt(() => applyRemedy(studyId.value, q, c))

const questionsOf = (f: Found) => f.questions.map((at) => data.value?.questions[at]).filter((q) => q !== undefined)
function settle(f: Found) {
  const list = questionsOf(f)
  if (f.kind === 'set') {
    void attempt(() =>
      api.addDerived(studyId.value, {
        wording: t('check.set_wording', { stem: f.stem }),
        derivation: { rule: 'together', sources: list.map((q) => q.id), chosen: f.chosen.map((slot) => [slot]) },
      }),
    )
  } else if (f.kind === 'missing') {
    void attempt(() =>
      api.editMany(studyId.value, { questions: list.map((q, i) => ({ id: q.id, version: q.version, missing: f.missing[i] ?? {} })) }),
    )
  } else if (f.kind === 'battery') {
    void attempt(() =>
      api.editMany(studyId.value, {
        questions: list.map((q) => ({ id: q.id, version: q.version })),
        makeList: t('check.list_name', { name: list[0]?.name ?? '' }),
      }),
    )
  }
}
const rebuilt = shallowRef('')
const rebuild = (id: number) => attempt(async () => (rebuilt.value = (await api.repair(studyId.value, id)).text))
const counting = computed(() => data.value?.questions.find((q) => q.kind === 'count') ?? null)
const print = () => window.print()
</script>

<template>
  <PlaceHead>
    <h1>{{ t('check.title') }}</h1>
    <span
      v-if="data"
      class="context"
    >{{ `${t('intake.found_rows', { n: count(data.n) }, data.n)} ${t('intake.in_rows', { n: count(data.rows) }, data.rows)}` }}</span>
  </PlaceHead>
  <main id="page" tabindex="-1">
    <div class="beside tall">
      <div class="sheet">
        <ErrorNote v-if="error" :error="error" :action="t('app.retry')" @act="load" />
        <ErrorNote v-if="failed" :error="failed" />
        <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
        <template v-if="data">
          <p class="acts top">
            <RouterLink class="act" :to="`/studies/${studyId}`">{{ t('check.to_topline') }}</RouterLink>
            <RouterLink class="act" :to="`/intake?study=${studyId}`" data-test="later-file">{{ t('check.later') }}</RouterLink>
            <button
              v-if="counting && data.n !== data.rows"
              type="button"
              class="act"
              @click="attempt(() => api.setCounts(studyId, null))"
            >{{ t('check.no_counts', { name: counting.name }) }}</button>
            <button type="button" class="act" @click="print">{{ t('check.print') }}</button>
          </p>
          <ul v-if="data.found.length" class="found">
            <li v-for="f in data.found" :key="f.text">{{ f.text }} <button
              v-if="f.kind !== 'pair'"
              type="button"
              class="act"
              :data-test="`settle-${f.kind}`"
              @click="settle(f)"
            >{{ t(`check.settle.${f.kind}`) }}</button></li>
          </ul>
          <CheckTable :check="data" @kind="asKind" @remedy="press" @rebuild="rebuild" />
          <p v-if="rebuilt" class="soft" role="status">{{ rebuilt }}</p>
          <section v-for="f in data.files" :key="f.sha256 + f.arrivedAt" class="file">
            <h2>
              {{ f.name }} <span class="soft small">{{ bytes(f.size) }} · {{ moment(f.arrivedAt) }}</span>
              <a
                v-if="!f.damaged"
                class="act small"
                :href="api.keptFile(studyId, f.id)"
                download
                data-test="kept-file"
              >{{ t('check.download') }}</a>
            </h2>
            <p v-for="n in f.notes" :key="n" class="soft">{{ n }}</p>
            <div class="scroll" tabindex="0" role="region" :aria-label="t('intake.first')">
              <table>
                <thead><tr><th v-for="(n, i) in f.names" :key="i" scope="col">{{ n }}</th></tr></thead>
                <tbody><tr v-for="(row, i) in f.first" :key="i"><td v-for="(cell, k) in row" :key="k">{{ cell }}</td></tr></tbody>
              </table>
            </div>
            <p v-if="f.sha256" class="soft small">SHA-256 {{ f.sha256 }}</p>
          </section>
        </template>
      </div>
      <aside class="margin notes">
        <p>{{ t('check.note_suggest') }}</p>
        <p>{{ t('check.note_undo') }}</p>
        <p>{{ t('check.note_file') }}</p>
      </aside>
    </div>
  </main>
</template>

<style scoped>
.tall { min-height: calc(100vh - 53px); }
.top { margin-bottom: 14px; }
.top a { text-decoration: none; }
.found { padding-left: 18px; margin-bottom: 16px; max-width: 820px; }
.file { margin-top: 30px; }
h2 { font-size: 16px; font-weight: 600; margin-bottom: 4px; overflow-wrap: anywhere; }
.scroll { overflow-x: auto; border-top: 1px solid var(--rule); margin: 6px 0; }
.scroll table { border-collapse: collapse; font-size: 14px; }
.scroll th { text-align: left; font-weight: 600; white-space: nowrap; }
.scroll th, .scroll td { padding: 3px 16px 3px 0; border-bottom: 1px solid var(--hair); white-space: pre; }
.notes { font: italic 14.5px/1.42 'Source Serif 4 Variable', serif; color: var(--soft); padding-top: 24px !important; }
.notes p { margin-bottom: 14px; }
.small { overflow-wrap: anywhere; }
@media print { .top, .notes { display: none; } }
</style>

<script setup lang="ts">
import { computed, onMounted, watch } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { api } from '@/api/client'
import { questionHash } from '@/app/questionHash'
import { useSession } from '@/app/session'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import { count, moment } from '@/app/format'
import PlaceHead from '@/components/PlaceHead.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { Claim, Register } from '@/api/client'

/** The register: what was claimed, at which level, when, what came out and what was changed
 * since. What is shown of it stands in the address. */
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { data, loading, error, run } = useLoad(() => [studyId.value, 'claims'], (signal) => api.register(studyId.value, signal))
const { error: failed, attempt } = useAttempt()

async function load() {
  const page = await run()
  if (page) session.open(studyId.value, page.questions.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: questionHash(q) })))
}
onMounted(load)
watch(studyId, load)

const filters = ['all', 'open', 'rejected', 'kept', 'failing', 'changed'] as const
type Filter = (typeof filters)[number]
const shown = computed<Filter>(() => filters.find((f) => f === route.query.show) ?? 'all')
const of = computed(() => Number(route.query.question) || 0)
const kind = computed(() => (typeof route.query.kind === 'string' ? route.query.kind : ''))
const set = (change: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...change } })

const fits = (c: Claim, filter: Filter) => filter === 'all' || (filter === 'changed' ? c.timing === 'changed' : c.state === filter)
const claims = computed(() =>
  (data.value?.claims ?? []).filter((c) => fits(c, shown.value) && (of.value === 0 || c.question === of.value)
    && (kind.value === '' || c.texts === kind.value)),
)
const withdrawn = computed(() => (shown.value === 'all' && of.value === 0 && kind.value === '' ? (data.value?.withdrawn ?? []) : []))
const any = computed(() => (data.value?.claims.length ?? 0) + (data.value?.withdrawn.length ?? 0) > 0)
const howMany = (filter: Filter) => count((data.value?.claims ?? []).filter((c) => fits(c, filter)).length)
const states = computed(() => filters.map((value) => ({ value, title: `${t(`claim.filter.${value}`)} (${howMany(value)})` })))
const asked = computed(() => {
  const known = new Map((data.value?.claims ?? []).map((c) => [c.question, c.name]))
  return [{ value: 0, title: t('claim.filter.any_question') }, ...[...known].sort(([a], [b]) => a - b)
    .map(([value, name]) => ({ value, title: `${value} · ${name}` }))]
})
const kinds = computed(() => [
  { value: '', title: t('claim.filter.any_kind') },
  ...[...new Set((data.value?.claims ?? []).map((c) => c.texts))].map((value) => ({ value, title: t(`quick.want.${value}`) })),
])
const adjustments = computed(() => (['none', 'holm', 'benjamini_hochberg'] as const)
  .map((value) => ({ value, title: t(`claim.adjustment.${value}`) })))
async function adjust(to: Register['adjustment']) {
  if (await attempt(() => api.adjust(studyId.value, to))) await load()
}

function outcome(claim: Claim) {
  if (claim.state === 'open') return t('claim.not_run')
  return claim.outcome?.text ?? t('claim.outcome_fix')
}
</script>

<template>
  <PlaceHead>
    <h1>{{ t('claim.register_title') }}</h1>
    <span v-if="data" class="context">{{ data.study.name }}</span>
  </PlaceHead>
  <main
    id="page"
    class="sheet"
    tabindex="-1"
  >
    <ErrorNote
      v-if="error ?? failed"
      :error="(error ?? failed)!"
      :action="t('app.retry')"
      @act="load"
    />
    <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
    <p v-if="data && !any" class="lead">{{ t('claim.register_empty') }}</p>
    <template v-if="data && any">
      <p class="sentence">
        <I18nT keypath="claim.register_shows" scope="global">
          <template #state><ChoiceMenu
            :model-value="shown"
            :items="states"
            :label="t('claim.filter.label')"
            test="show"
            @update:model-value="set({ show: $event === 'all' ? undefined : $event })"
          /></template>
          <template #question><ChoiceMenu
            :model-value="of"
            :items="asked"
            :label="t('claim.question')"
            test="question"
            @update:model-value="set({ question: $event ? String($event) : undefined })"
          /></template>
          <template #kind><ChoiceMenu
            :model-value="kind"
            :items="kinds"
            :label="t('claim.filter.kind')"
            test="kind"
            @update:model-value="set({ kind: $event || undefined })"
          /></template>
          <template #adjustment><ChoiceMenu
            :model-value="data.adjustment"
            :items="adjustments"
            :label="t('claim.adjustment.label')"
            test="adjustment"
            @update:model-value="adjust"
          /></template>
        </I18nT>
      </p>
      <p class="lead" data-test="tests-run">
        {{ t('claim.tests_run', { n: count(data.testsRun) }, data.testsRun) }}
        <template v-if="data.adjustment !== 'none'">{{ t(`claim.adjustment.${data.adjustment}_means`) }}
          {{ data.chosenAt ? t(data.afterwards ? 'claim.adjustment.afterwards' : 'claim.adjustment.beforehand',
            { date: moment(data.chosenAt) }) : '' }}</template>
        <template v-else-if="data.testsRun > 1">{{ t('claim.adjustment.many') }}</template>
      </p>
      <p v-if="!claims.length && !withdrawn.length" class="soft">{{ t('claim.filter.none') }}</p>
      <div v-else class="wide">
        <table class="figures register" role="table">
          <thead role="rowgroup">
            <tr role="row">
              <th scope="col" role="columnheader">№</th>
              <th scope="col" role="columnheader" class="left">{{ t('claim.question') }}</th>
              <th scope="col" role="columnheader" class="left">{{ t('claim.claim_h') }}</th>
              <th scope="col" role="columnheader" class="left">{{ t('claim.stated_h') }}</th>
              <th scope="col" role="columnheader">{{ t('claim.level_h') }}</th>
              <th scope="col" role="columnheader">{{ t('claim.p') }}</th>
              <th v-if="data.adjustment !== 'none'" scope="col" role="columnheader">{{ t('claim.adjustment.p') }}</th>
              <th scope="col" role="columnheader" class="left">{{ t('claim.outcome') }}</th>
            </tr>
          </thead>
          <tbody role="rowgroup">
            <tr v-for="claim in claims" :key="claim.id" role="row" data-test="registered">
              <td role="cell">{{ claim.number }}</td>
              <td role="cell" class="left">
                <RouterLink :to="`/studies/${studyId}#a${claim.id}`">{{ claim.question }} · {{ claim.name }}</RouterLink>
              </td>
              <td role="cell" class="left serif">
                {{ claim.statement }}
                <details v-if="claim.changes.length" class="soft small">
                  <summary class="act">{{ t('claim.changes') }} ({{ claim.changes.length }})</summary>
                  <p
                    v-for="(c, i) in claim.changes"
                    :key="i"
                  >{{ c.text }}<template v-if="c.at"> · {{ moment(c.at) }}</template><template
                    v-if="c.at && c.afterRun"
                  > · {{ t('claim.after_run') }}</template></p>
                </details>
              </td>
              <td role="cell" class="left soft time" :data-label="t('claim.stated_h')">{{ moment(claim.statedAt) }}</td>
              <td role="cell" :data-label="t('claim.level_h')">{{ claim.levelText }}</td>
              <td role="cell" :data-label="t('claim.p')">{{ claim.outcome?.p ?? '–' }}</td>
              <td v-if="data.adjustment !== 'none'" role="cell" :data-label="t('claim.adjustment.p')">{{ claim.adjusted || '–' }}</td>
              <td role="cell" class="left">
                {{ outcome(claim) }}
                <template
                  v-if="claim.adjustedState && claim.adjustedState !== claim.state"
                ><br /><b>{{ t('claim.adjustment.differs') }}</b></template>
                <template v-for="p in claim.problems" :key="p"><br /><span class="soft">{{ p }}</span></template>
              </td>
            </tr>
            <tr v-for="w in withdrawn" :key="w.id" role="row" class="soft" data-test="withdrawn">
              <td role="cell">{{ w.number }}</td>
              <td role="cell" class="left">{{ w.question }}</td>
              <td role="cell" class="left serif">{{ w.statement }}</td>
              <td role="cell" class="left time" :data-label="t('claim.stated_h')">{{ moment(w.statedAt) }}</td>
              <td role="cell">{{ w.levelText }}</td>
              <td role="cell">–</td>
              <td v-if="data.adjustment !== 'none'" role="cell">–</td>
              <td role="cell" class="left">
                {{ t('claim.withdrawn', { date: moment(w.withdrawnAt) }) }}; {{ w.firstRunAt ? t('claim.withdrawn_run')
                  : t('claim.withdrawn_not_run') }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </main>
</template>

<style scoped>
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 900px; margin-bottom: 4px; }
.lead { margin-bottom: 14px; max-width: 900px; }
.register td { padding-top: 8px; padding-bottom: 8px; border-bottom: 1px solid var(--hair); }
.register th { white-space: nowrap; }
.register td:nth-child(2), .register td:nth-child(3) { min-width: 200px; }
.time { white-space: nowrap; }
/* On a telephone it is a list: the question, what is claimed, and the rest with its name. */
@media (max-width: 640px) {
  .register, .register tbody, .register tr, .register td { display: block; }
  .register thead { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
  .register tr { padding: 10px 0; border-bottom: 1px solid var(--rule); }
  .register td { padding: 1px 0; border: 0; text-align: left; }
  .register td:first-child { float: left; margin-right: 8px; font-weight: 600; }
  .register td[data-label]::before { content: attr(data-label) ' '; color: var(--soft); }
}
summary { list-style: none; cursor: pointer; font-family: 'Source Sans 3 Variable', sans-serif; }
</style>

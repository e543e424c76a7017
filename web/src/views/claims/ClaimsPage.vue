<script setup lang="ts">
import { computed, onMounted, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { api } from '@/api/client'
import { useSession } from '@/app/session'
import ErrorNote from '@/components/ErrorNote.vue'
import { count, moment } from '@/app/format'
import PlaceHead from '@/components/PlaceHead.vue'
import { useLoad } from '@/composables/useLoad'

import type { Analysis } from '@/api/client'

/** The register: what was claimed, at which level, when, and what came out. */
const { t } = useI18n()
const route = useRoute()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { data, loading, error, run } = useLoad(() => [studyId.value, 'topline', null], (signal) => api.topline(studyId.value, null, null, signal))

const claims = computed(() =>
  (data.value?.questions ?? [])
    .flatMap((q) => q.analyses.filter((a) => a.number !== null).map((claim) => ({ claim, question: q })))
    .sort((a, b) => (a.claim.number ?? 0) - (b.claim.number ?? 0)),
)

async function load() {
  const page = await run()
  if (page) session.open(studyId.value, page.questions.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: `#q${q.number}` })))
}
onMounted(load)
watch(studyId, load)

function outcome(claim: Analysis) {
  if (!claim.firstRunAt) return t('claim.not_run')
  return claim.document?.outcome?.text ?? t('claim.outcome_fix')
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
      v-if="error"
      :error="error"
      :action="t('app.retry')"
      @act="load"
    />
    <p
      v-if="loading && !data"
      class="soft"
    >
      {{ t('app.loading') }}
    </p>
    <p
      v-if="data && claims.length + data.withdrawn.length === 0"
      class="lead"
    >
      {{ t('claim.register_empty') }}
    </p>
    <p
      v-if="data && (claims.length || data.withdrawn.length)"
      class="lead"
      data-test="tests-run"
    >
      {{ t('claim.tests_run', { n: count(data.testsRun) }, data.testsRun) }}
    </p>
    <div
      v-if="data && (claims.length || data.withdrawn.length)"
      class="wide"
    >
      <table class="figures register">
        <thead>
          <tr>
            <th scope="col">№</th>
            <th scope="col" class="left">{{ t('claim.question') }}</th>
            <th scope="col" class="left">{{ t('claim.claim_h') }}</th>
            <th scope="col" class="left">{{ t('claim.stated_h') }}</th>
            <th scope="col">{{ t('claim.level_h') }}</th>
            <th scope="col">{{ t('claim.p') }}</th>
            <th scope="col" class="left">{{ t('claim.outcome') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ claim, question } in claims" :key="claim.id">
            <td>{{ claim.number }}</td>
            <td class="left">
              <RouterLink :to="`/studies/${studyId}#q${question.number}`">{{ question.number }} · {{ question.short || question.wording }}</RouterLink>
            </td>
            <td class="left serif">
              {{ claim.statement }}
            </td>
            <td class="left soft">
              {{ moment(claim.statedAt) }}<template v-if="claim.changes.length">
                <br />{{ t('claim.changes') }}
              </template>
            </td>
            <td>{{ claim.levelText }}</td>
            <td>{{ claim.document?.outcome?.p ?? '–' }}</td>
            <td class="left">{{ outcome(claim) }}</td>
          </tr>
          <tr v-for="w in data.withdrawn" :key="w.id" class="soft" data-test="withdrawn">
            <td>{{ w.number }}</td>
            <td class="left">{{ w.question }}</td>
            <td class="left serif">{{ w.statement }}</td>
            <td class="left">{{ moment(w.statedAt) }}</td>
            <td>{{ w.levelText }}</td>
            <td>–</td>
            <td class="left">
              {{ t('claim.withdrawn', { date: moment(w.withdrawnAt) }) }}; {{ w.firstRunAt ? t('claim.withdrawn_run') : t('claim.withdrawn_not_run') }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </main>
</template>

<style scoped>
.lead { margin-bottom: 14px; }
.register td { padding-top: 8px; padding-bottom: 8px; border-bottom: 1px solid var(--hair); }
.register th { white-space: nowrap; }
.register td:nth-child(2), .register td:nth-child(3) { min-width: 200px; }
</style>

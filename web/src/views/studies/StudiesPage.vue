<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'

import { api } from '@/api/client'
import { lazily } from '@/app/later'
import { useSession } from '@/app/session'
import { who } from '@/app/who'
import ErrorNote from '@/components/ErrorNote.vue'
import { count, moment } from '@/app/format'
import InlineText from '@/components/InlineText.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import WritingLine from '@/components/WritingLine.vue'
import { useAttempt } from '@/composables/useAttempt'
import { brought, useBringing } from '@/composables/useBringing'
import { useDownload } from '@/composables/useDownload'
import { useLoad } from '@/composables/useLoad'

import EmptyShelf from './EmptyShelf.vue'

import type { Study } from '@/api/client'

const { t } = useI18n()
const ShareDialog = lazily(() => import('@/components/ShareDialog.vue'))
const sharing = ref<Study | null>(null)
const session = useSession()
const router = useRouter()
useBringing((files) => {
  brought.value = files
  void router.push('/intake')
}, t('intake.pasted_name'))
const { data, loading, error, run } = useLoad(() => [0], (signal) => api.listStudies(signal), true)
const { error: failed, attempt } = useAttempt(run)

const rename = (study: Study, name: string) => attempt(() => api.editStudy(study.id, study.version, { name }))

const remove = (study: Study) =>
  attempt(async () => {
    await api.deleteStudy(study.id)
    session.leave(study.id)
    session.offerUndo(t('studies.deleted', { name: study.name }), async () => {
      await attempt(() => api.restoreStudy(study.id))
    })
  })
const { writing, percent, error: unwritten, take, stop } = useDownload()
</script>

<template>
  <PlaceHead>
    <h1>{{ t('studies.title') }}</h1>
    <span v-if="data" class="context">{{ t('studies.count', data.studies.length) }}</span>
  </PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <ErrorNote v-if="error" :error="error" :action="t('app.retry')" @act="run()" />
    <ErrorNote v-if="failed" :error="failed" />
    <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
    <EmptyShelf v-if="data && data.studies.length === 0" />
    <template v-else-if="data">
      <ErrorNote v-if="unwritten" :error="unwritten" />
      <WritingLine v-if="writing" :name="writing" :percent="percent" @stop="stop" />
      <table class="figures shelf">
        <thead>
          <tr>
            <th scope="col">{{ t('studies.name') }}</th>
            <th scope="col">{{ t('studies.rows') }}</th>
            <th scope="col">{{ t('studies.questions') }}</th>
            <th scope="col">{{ t('studies.claims') }}</th>
            <th scope="col">{{ t('studies.edited') }}</th>
            <th scope="col"><span class="visually-hidden">{{ t('studies.actions') }}</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="study in data.studies" :key="study.id">
            <th scope="row" class="name serif"><RouterLink :to="`/studies/${study.id}`">{{ study.name }}</RouterLink></th>
            <td>{{ count(study.rows) }} <span class="soft">{{ study.units }}</span></td>
            <td>{{ count(study.questions ?? 0) }}</td>
            <td>{{ count(study.claims ?? 0) }}</td>
            <td class="soft time">{{ moment(study.updatedAt) }}</td>
            <td class="row-acts">
              <span class="rename"><InlineText
                :text="study.name"
                :shown="t('studies.rename')"
                :label="t('studies.rename') + ': ' + study.name"
                :maxlength="120"
                @save="rename(study, $event)"
              /></span>
              <button
                v-if="who"
                type="button"
                class="act"
                :aria-label="`${t('people.share')}: ${study.name}`"
                data-test="share"
                @click="sharing = study"
              >{{ t('people.share') }}</button>
              <button
                type="button"
                class="act"
                :aria-label="`${t('studies.save')}: ${study.name}`"
                data-test="study-file"
                @click="take(api.studyFile(study.id), study.name)"
              >{{ t('studies.save') }}</button>
              <button
                type="button"
                class="act"
                :aria-label="`${t('studies.delete')}: ${study.name}`"
                @click="remove(study)"
              >{{ t('studies.delete') }}</button>
            </td>
          </tr>
        </tbody>
      </table>
      <ShareDialog
        v-if="sharing"
        :of="{ kind: 'study', id: sharing.id, name: sharing.name }"
        :model-value="true"
        @update:model-value="sharing = null"
      />
      <p class="start">
        <v-btn to="/intake" variant="flat" color="primary">{{ t('studies.start') }}</v-btn>
        <span class="soft small">{{ t('studies.start_note') }}</span>
      </p>
    </template>
  </main>
</template>

<style scoped>
.shelf { max-width: 1000px; }
.shelf .name { font-size: 17px; font-weight: 500; }
.shelf .name a { text-decoration: none; }
.shelf .name a:hover { text-decoration: underline; }
.shelf td, .shelf tbody th { padding-top: 9px; padding-bottom: 9px; border-bottom: 1px solid var(--hair); vertical-align: baseline; }
.time, .row-acts { white-space: nowrap; }
.row-acts .act, .rename { margin-left: 18px; color: var(--teal); font-weight: 600; }
.start { margin-top: 22px; display: flex; gap: 14px; align-items: baseline; }
</style>

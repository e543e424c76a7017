<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import ErrorNote from '@/components/ErrorNote.vue'
import { moment } from '@/app/format'
import { useLoad } from '@/composables/useLoad'

/** Everything that was done to codebook and answers, the newest first. */
const props = defineProps<{ studyId: number }>()
const { t } = useI18n()
const { data, error, run } = useLoad(() => [props.studyId, 'history'], (signal) => api.history(props.studyId, signal))
</script>

<template>
  <section>
    <p><RouterLink :to="`/studies/${studyId}/trail`" data-test="to-trail">{{ t('trail.title') }}</RouterLink></p>
    <ErrorNote
      v-if="error"
      :error="error"
      :action="t('app.retry')"
      @act="run"
    />
    <p
      v-if="data && data.edits.length === 0"
      class="soft"
    >
      {{ t('history.empty') }}
    </p>
    <table
      v-else-if="data"
      class="figures history"
      data-test="history"
    >
      <thead><tr><th scope="col">
        {{ t('history.what') }}
      </th><th
        scope="col"
        class="left"
      >
        {{ t('history.state') }}
      </th><th scope="col" class="left">
        {{ t('history.who') }}
      </th><th scope="col">
        {{ t('history.when') }}
      </th></tr></thead>
      <tbody>
        <tr
          v-for="e in data.edits"
          :key="e.id"
        >
          <td>{{ e.text }}</td><td class="left soft">
            {{ t(`history.states.${e.state}`) }}
          </td><td class="left soft">{{ e.author }}</td><td class="soft">
            {{ moment(e.at) }}
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.history { max-width: 860px; }
.history td { border-bottom: 1px solid var(--hair); }
</style>

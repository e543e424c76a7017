<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { moment } from '@/app/format'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'

import type { LinkKind, Links } from '@/api/client'

/** Links by which others look at a study, for its owners. */
const props = defineProps<{ study: number }>()
const { t } = useI18n()
const links = ref<Links | null>(null)
const shows = ref<LinkKind>('report')
const days = ref('30')
const made = ref('')
const kinds = computed(() => (links.value?.shows ?? []).map((value) => ({ value, title: t(`people.links.${value}`) })))
const { error, attempt } = useAttempt()
async function list() {
  const found = await attempt(() => api.links(props.study))
  if (found) links.value = found.value
}
watch(() => props.study, list, { immediate: true })
async function make() {
  const done = await attempt(() => api.addLink(props.study, shows.value, Number(days.value)))
  made.value = done ? location.origin + done.value.path : ''
  if (done) await list()
}
async function end(id: string) {
  if (await attempt(() => api.endLink(props.study, id))) await list()
}
</script>

<template>
  <h3>{{ t('people.links.title') }}</h3>
  <ErrorNote v-if="error" :error="error" />
  <template v-if="links">
    <p v-if="!links.links.length" class="soft small">{{ t('people.links.none') }}</p>
    <table v-else class="figures" data-test="links">
      <tbody>
        <tr v-for="l in links.links" :key="l.id">
          <th scope="row">{{ t(`people.links.${l.shows}`) }}</th>
          <td class="soft">{{ l.by }}</td>
          <td class="soft">{{ l.expired ? t('people.tokens.expired') : `${t('people.tokens.until')} ${moment(l.expires)}` }}</td>
          <td class="soft">{{ t('people.seen') }}: {{ l.seen ? moment(l.seen) : t('people.tokens.never') }}</td>
          <td><button type="button" class="act" @click="end(l.id)">{{ t('people.end') }}</button></td>
        </tr>
      </tbody>
    </table>
    <form class="make" @submit.prevent="make">
      <v-select v-model="shows" :items="kinds" :label="t('people.links.shows')" data-test="link-shows" />
      <v-text-field v-model="days"
:label="t('people.links.days')"
type="number"
min="1"
max="366"
required
class="days" />
      <button type="submit" class="act" data-test="link-make">{{ t('people.links.make') }}</button>
    </form>
    <p v-if="made" role="status">{{ t('people.links.made') }} <code data-test="link">{{ made }}</code></p>
  </template>
</template>

<style scoped>
h3 { font-size: 16px; margin: 18px 0 6px; }
th { font-weight: 500; }
.make { display: flex; flex-wrap: wrap; gap: 8px 10px; align-items: center; margin: 10px 0 6px; }
.make .v-input { max-width: 150px; }
.make .days { max-width: 90px; }
code { overflow-wrap: anywhere; }
</style>

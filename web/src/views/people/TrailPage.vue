<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { api } from '@/api/client'
import { count, moment } from '@/app/format'
import ErrorNote from '@/components/ErrorNote.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useDownload } from '@/composables/useDownload'
import { useLoad } from '@/composables/useLoad'

import type { Entry } from '@/api/client'

/** Who did what, when and from where: of a study, or of the accounts. */
const { t } = useI18n()
const route = useRoute()
const study = Number(route.params.study) || null
const kind = ref('')
const actor = ref('')
const from = ref('')
const to = ref('')
const wanted = computed(() => ({
  ...(kind.value && { what: kind.value }),
  ...(actor.value && { actor: actor.value }),
  ...(from.value && { from: from.value }),
  ...(to.value && { to: to.value }),
}))
const { data, error, run } = useLoad(() => [study ?? 0, 'trail', wanted.value], (signal) => api.trail(study, wanted.value, signal))

/** Those before, which are asked for one page after the other. */
const earlier = ref<Entry[]>([])
const { error: failed, attempt } = useAttempt()
watch(data, () => (earlier.value = []))
const entries = computed(() => [...(data.value?.entries ?? []), ...earlier.value])
const more = computed(() => (entries.value.at(-1)?.number ?? 1) > 1 && entries.value.length % 200 === 0)
async function before() {
  const found = await attempt(() => api.trail(study, { ...wanted.value, before: entries.value.at(-1)!.number }))
  if (found) earlier.value.push(...found.value.entries)
}

/** Everybody who was seen in it stays to be chosen. */
const people = ref<Map<string, string>>(new Map())
watch(entries, (list) => list.forEach((e) => people.value.set(e.actor, e.name)))
const whoever = computed(() => [{ value: '', title: t('trail.who_any') }, ...[...people.value].map(([value, title]) => ({ value, title }))])
const heads = ['number', 'at', 'who', 'via', 'what', 'seal']
const known = ['', 'history', 'trail.left', 'trail.looked', 'trail.shared', 'trail.undone']
const kinds = computed(() => known.map((value) => ({ value, title: t(`trail.kinds.${value || 'any'}`) })))
const { error: unwritten, take } = useDownload()
</script>

<template>
  <PlaceHead>
    <h1>{{ t('trail.title') }}</h1>
    <span class="context">{{ study === null ? t('trail.of_accounts') : data?.name }}</span>
  </PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <p class="soft">{{ t('trail.note') }}</p>
    <form class="wanted" @submit.prevent>
      <v-select v-if="study !== null"
v-model="kind"
:items="kinds"
:label="t('trail.kind')"
data-test="trail-kind" />
      <v-select v-model="actor" :items="whoever" :label="t('trail.who')" data-test="trail-who" />
      <v-text-field v-model="from" :label="t('trail.from')" type="date" />
      <v-text-field v-model="to" :label="t('trail.to')" type="date" />
      <button type="button" class="act" data-test="trail-file" @click="take(api.trailFile(study, wanted), 'trail.csv')">{{
        t('trail.file')
      }}</button>
    </form>
    <ErrorNote v-if="error" :error="error" :action="t('app.retry')" @act="run()" />
    <ErrorNote v-if="failed ?? unwritten" :error="(failed ?? unwritten)!" />
    <p v-if="data && !entries.length" class="soft">{{ Object.keys(wanted).length ? t('trail.nothing') : t('trail.empty') }}</p>
    <table v-else-if="data" class="figures trail" data-test="trail">
      <thead>
        <tr>
          <th v-for="head in heads" :key="head" scope="col" :class="{ left: head !== 'number' }">{{ t(`trail.head.${head}`) }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="e in entries" :key="e.number">
          <td>{{ count(e.number) }}</td>
          <td class="left soft">{{ moment(e.at) }}</td>
          <td class="left">{{ e.name }}</td>
          <td class="left soft">{{ t(`trail.via.${e.via}`) }}<template v-if="e.address">, {{ e.address }}</template></td>
          <td class="left what">{{ e.text }}</td>
          <td class="left soft seal" :title="e.seal"><code>{{ e.seal.slice(0, 8) }}</code></td>
        </tr>
      </tbody>
    </table>
    <button v-if="more"
type="button"
class="act"
data-test="trail-more"
@click="before">{{ t('trail.more') }}</button>
  </main>
</template>

<style scoped>
.wanted { display: flex; flex-wrap: wrap; gap: 10px 14px; align-items: center; margin: 16px 0; }
.wanted > :deep(.v-input) { max-width: 200px; min-width: 150px; }
.trail { max-width: 1100px; }
.trail td { border-bottom: 1px solid var(--hair); white-space: nowrap; }
.trail .what { white-space: normal; overflow-wrap: anywhere; }
</style>

<script setup lang="ts">
import { computed, onMounted, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { api } from '@/api/client'
import ErrorNote from '@/components/ErrorNote.vue'
import { bytes } from '@/app/format'
import PlaceHead from '@/components/PlaceHead.vue'

import { brought, useBringing } from '@/composables/useBringing'

import ArrivalPreview from './ArrivalPreview.vue'
import FileDrop from './FileDrop.vue'
import KeepForm from './KeepForm.vue'
import PackedStudy from './PackedStudy.vue'
import ProgressLine from './ProgressLine.vue'
import RefreshForm from './RefreshForm.vue'
import { presetKey, presets } from '@/app/presets'
import { forgetTyped } from './typed'
import { useArrival } from './useArrival'

import type { Fit } from '@/api/client'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
/** With a study in the address, the file goes into that study instead of a new one. */
const studyId = computed(() => (route.query.study ? Number(route.query.study) : null))
const studyName = shallowRef('')
const known = shallowRef<{ fileBytes: number } | null>(null)
async function limits() {
  known.value ??= await api.limits()
  return known.value.fileBytes
}
const { arrival, choices, error, busy, attempt, watched, take, addFile, set, choose, chooseMany, drop, list } = useArrival(
  limits,
  (name, size, most) => t('intake.too_large', { name, size: bytes(size), most: bytes(most) }),
)
onMounted(() => limits().catch((cause: Error) => (error.value = cause)))
onMounted(() => {
  const files = brought.value
  brought.value = []
  if (files.length) void take(files)
})
useBringing((files) => !arrival.value && !busy.value && void take(files), t('intake.pasted_name'))
watch(
  studyId,
  async (id) => {
    studyName.value = id === null ? '' : ((await api.codebook(id).catch(() => null))?.study.name ?? '')
  },
  { immediate: true },
)

const suggestedName = computed(() => (arrival.value?.name ?? '').replace(/\.[^.]*$/, '').replace(/[_-]+/g, ' '))
const ready = computed(() => arrival.value?.preview?.check != null && !busy.value)

const keep = (name: string, units: string, design = false) =>
  attempt(async () => {
    const a = arrival.value
    if (!a) return
    const study = await watched(a.id, a.name, 'keeping', (signal) =>
      api.createStudy({ arrivalId: a.id, settings: a.settings, name, units, columns: list() }, signal),
    )
    forgetTyped()
    // Shares that came beside the counts wait in the form that compares with them.
    const of = study.expected
    if (of) presets.set(presetKey(of.question, of.method), { settings: of.settings, others: [] })
    if (design) return void (await router.push(`/studies/${study.id}/codebook?show=design`))
    await router.push({ path: `/studies/${study.id}`, ...(study.expected ? { query: { ask: study.expected.method }, hash: '#q1' } : {}) })
  })

/** The study that the file holds, as it was. */
const openPacked = () =>
  attempt(async () => {
    const a = arrival.value
    if (!a) return
    const study = await watched(a.id, a.name, 'keeping', (signal) => api.openStudy(a.id, signal))
    await router.push(`/studies/${study.id}`)
  })

const refresh = (body: { add: boolean; waveQuestion: string; wave: string; waveBefore?: string; dry: boolean }, hear?: (fit: Fit) => void) =>
  attempt(async () => {
    const a = arrival.value
    if (!a || studyId.value === null) return
    const id = studyId.value
    const send = (signal?: AbortSignal) => api.refresh(id, { arrivalId: a.id, settings: a.settings, ...body }, signal)
    const fit = body.dry ? await send() : await watched(a.id, a.name, 'keeping', send)
    if (body.dry) hear?.(fit)
    else await router.push(`/studies/${id}`)
  })
</script>

<template>
  <PlaceHead>
    <h1>{{ studyId === null ? t('intake.title') : t('intake.later_title') }}</h1>
    <span class="context">{{ studyId === null ? t('intake.sub') : t('intake.later_sub', { name: studyName }) }}</span>
  </PlaceHead>
  <main id="page" tabindex="-1">
    <div v-if="error" class="sheet tight"><ErrorNote :error="error" /></div>
    <ProgressLine v-if="busy" v-bind="busy" @cancel="drop" />
    <FileDrop v-if="!arrival && !busy" :most="known ? bytes(known.fileBytes) : ''" @files="take" />
    <PackedStudy v-if="arrival?.packed && studyId === null" :packed="arrival.packed" @open="openPacked" />
    <ArrivalPreview
      v-if="arrival"
      :key="arrival.id"
      :arrival="arrival"
      :choices="choices"
      :fresh="studyId === null"
      @settings="set"
      @choose="choose"
      @choose-many="chooseMany"
      @another="drop"
      @add-file="addFile"
    >
      <template v-if="ready">
        <KeepForm
          v-if="studyId === null"
          :suggested-name="suggestedName"
          :counted="arrival.settings.shape !== 'rows'"
          :drawn="arrival.preview?.check?.drawn ?? []"
          @keep="keep"
        />
        <RefreshForm
          v-else
          :key="JSON.stringify(arrival.settings)"
          @look="(hear) => refresh({ add: true, waveQuestion: '', wave: '', dry: true }, hear)"
          @refresh="(body) => refresh({ ...body, dry: false })"
        />
      </template>
    </ArrivalPreview>
  </main>
</template>

<style scoped>
.tight { padding-bottom: 0; }
</style>

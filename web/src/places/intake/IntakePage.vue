<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'

import { api } from '@/api/client'
import ErrorNote from '@/parts/ErrorNote.vue'
import { bytes } from '@/parts/format'
import PlaceHead from '@/parts/PlaceHead.vue'

import ArrivalPreview from './ArrivalPreview.vue'
import FileDrop from './FileDrop.vue'

import type { Arrival, Settings } from '@/api/client'

const { t } = useI18n()
const router = useRouter()
const arrival = shallowRef<Arrival | null>(null)
const error = shallowRef<Error | null>(null)
const reading = ref('')
const keeping = ref(false)
let running: AbortController | null = null

const known = shallowRef<{ fileBytes: number } | null>(null)
async function limits() {
  known.value ??= await api.limits()
  return known.value
}
onMounted(() => limits().catch((cause: Error) => (error.value = cause)))

const suggestedName = computed(() => (arrival.value?.name ?? '').replace(/\.[^.]*$/, '').replace(/[_-]+/g, ' '))

async function attempt(work: () => Promise<void>) {
  error.value = null
  try {
    await work()
  } catch (cause) {
    if (!(cause instanceof DOMException)) error.value = cause as Error
  }
}

const take = (file: File) =>
  attempt(async () => {
    // A server that refuses a large file closes the line, and the browser would only
    // tell that; so the limit is asked for first.
    const { fileBytes } = await limits()
    if (file.size > fileBytes) throw new Error(t('intake.too_large', { name: file.name, size: bytes(file.size), most: bytes(fileBytes) }))
    running?.abort()
    running = new AbortController()
    reading.value = `${file.name} (${bytes(file.size)})`
    try {
      arrival.value = await api.arrive(file.name, file, running.signal)
    } finally {
      reading.value = ''
    }
  })

const lookAgain = (settings: Settings) =>
  attempt(async () => {
    if (arrival.value) arrival.value = await api.lookAgain(arrival.value.id, settings)
  })

const keep = (name: string, units: string) =>
  attempt(async () => {
    if (!arrival.value) return
    keeping.value = true
    try {
      const study = await api.createStudy({ arrivalId: arrival.value.id, settings: arrival.value.settings, name, units })
      await router.push(`/studies/${study.id}`)
    } finally {
      keeping.value = false
    }
  })

async function startOver() {
  running?.abort()
  const left = arrival.value
  arrival.value = null
  error.value = null
  if (left) await api.discardArrival(left.id).catch(() => undefined) // it goes by itself after a while
}
</script>

<template>
  <PlaceHead>
    <h1>{{ t('intake.title') }}</h1>
    <span class="context">{{ t('intake.sub') }}</span>
  </PlaceHead>
  <main id="page" tabindex="-1">
    <div v-if="error" class="sheet tight"><ErrorNote :error="error" /></div>
    <div v-if="reading" class="sheet tight" role="status">
      <p>{{ t('intake.sending', { name: reading }) }} <button type="button" class="act" @click="startOver">{{ t('app.cancel') }}</button></p>
      <v-progress-linear indeterminate color="primary" height="3" />
    </div>
    <FileDrop v-if="!arrival && !reading" :most="known ? bytes(known.fileBytes) : ''" @file="take" />
    <ArrivalPreview v-if="arrival" :key="arrival.id" :arrival="arrival" :suggested-name="suggestedName" :keeping="keeping" @settings="lookAgain" @keep="keep" @another="startOver" />
  </main>
</template>

<style scoped>
.tight { padding-bottom: 0; }
</style>

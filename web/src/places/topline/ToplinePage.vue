<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { api } from '@/api/client'
import { useSession } from '@/app/session'
import { useKeys } from '@/app/useKeys'
import ErrorNote from '@/parts/ErrorNote.vue'
import { count } from '@/parts/format'
import InlineText from '@/parts/InlineText.vue'
import PlaceHead from '@/parts/PlaceHead.vue'
import { useLoad } from '@/parts/useLoad'

import QuestionBlock from './components/QuestionBlock.vue'

import type { Question, StudyEdit, Topline } from '@/api/client'
import type { Base } from './types'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const session = useSession()
const studyId = computed(() => Number(route.params.study))
const { data, loading, error, run } = useLoad((signal) => api.topline(studyId.value, signal))
const failed = ref<Error | null>(null)

const base = computed<Base>(() => (route.query.base === 'everyone' ? 'everyone' : 'answered'))
const showCodes = computed(() => route.query.codes === '1')
const anchor = (q: Question) => `q${q.number}`

function setQuery(change: Record<string, string | undefined>) {
  void router.replace({ query: { ...route.query, ...change }, hash: route.hash })
}

function register(page: Topline) {
  session.open(
    studyId.value,
    page.questions.map((q) => ({ title: `${q.number} · ${q.wording}`, hash: `#${anchor(q)}` })),
  )
}

async function load() {
  const page = await run()
  if (!page) return
  register(page)
  await nextTick()
  toHash()
  await document.fonts.ready // lines break anew when the fonts come in
  toHash()
}

function toHash() {
  if (route.hash) document.getElementById(route.hash.slice(1))?.scrollIntoView({ block: 'start' })
}

onMounted(load)
watch(studyId, load)
watch(() => route.hash, () => nextTick(toHash))

function replace(question: Question) {
  if (!data.value) return
  data.value = { ...data.value, questions: data.value.questions.map((q) => (q.id === question.id ? question : q)) }
  register(data.value)
}

async function editStudy(change: StudyEdit) {
  if (!data.value) return
  failed.value = null
  try {
    await api.editStudy(studyId.value, data.value.study.version, change)
    await run()
  } catch (cause) {
    failed.value = cause as Error
  }
}

function nextDecimals() {
  if (data.value) void editStudy({ decimals: (data.value.study.decimals + 1) % 4 })
}

function step(by: 1 | -1) {
  const blocks = [...document.querySelectorAll<HTMLElement>('section.question')]
  const top = 80
  const here = blocks.findIndex((b) => b.getBoundingClientRect().bottom > top + 1)
  const focused = blocks.findIndex((b) => b === document.activeElement)
  const from = focused >= 0 ? focused + by : by > 0 ? here : here - 1
  const target = blocks[Math.min(Math.max(from, 0), blocks.length - 1)]
  target?.scrollIntoView({ block: 'start' })
  target?.focus({ preventScroll: true })
}
useKeys({ j: () => step(1), k: () => step(-1) })
</script>

<template>
  <PlaceHead>
    <template v-if="data">
      <h1><InlineText :text="data.study.name" :label="t('topline.rename_study')" :maxlength="120" @save="editStudy({ name: $event })" /></h1>
      <div class="context">
        <b>{{ count(data.study.rows) }}</b> <InlineText :text="data.study.units" :label="t('topline.units_edit')" :maxlength="40" @save="editStudy({ units: $event })" /> ·
        {{ t('topline.questions', data.questions.length) }} ·
        <button type="button" class="act" :aria-pressed="showCodes" @click="setQuery({ codes: showCodes ? undefined : '1' })">{{ showCodes ? t('topline.codes') : t('topline.labels') }}</button> ·
        <button type="button" class="act" @click="nextDecimals">{{ t('topline.decimals', data.study.decimals) }}</button>
      </div>
    </template>
    <h1 v-else>{{ t('places.topline') }}</h1>
  </PlaceHead>
  <main id="page" tabindex="-1">
    <div v-if="error || failed || (loading && !data)" class="sheet tight">
      <ErrorNote v-if="error" :error="error" :action="t('app.retry')" @act="load" />
      <ErrorNote v-if="failed" :error="failed" :action="t('app.reload')" @act="((failed = null), load())" />
      <p v-if="loading && !data" class="soft">{{ t('app.loading') }}</p>
    </div>
    <template v-if="data">
      <QuestionBlock v-for="q in data.questions" :id="anchor(q)" :key="q.id" :question="q" :study="data.study" :base="base" :show-codes="showCodes" @changed="replace" @base="setQuery({ base: base === 'answered' ? 'everyone' : undefined })" />
    </template>
  </main>
</template>

<style scoped>
.tight { padding-bottom: 0; }
.context b { color: var(--ink); font-weight: 600; }
.context .act { font-weight: 400; color: var(--soft); }
.context .act:hover { color: var(--teal); }
main:focus { outline: none; }
</style>

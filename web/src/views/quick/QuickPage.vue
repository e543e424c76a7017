<script setup lang="ts">
import { useDebounceFn, useUrlSearchParams } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import AskSentence from '@/components/asking/AskSentence.vue'
import { useSettings } from '@/components/asking/useSettings'
import DocumentView from '@/components/document/DocumentView.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import MarginNotes from '@/components/MarginNotes.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import SentenceBlank from '@/components/SentenceBlank.vue'
import { useCopied } from '@/composables/useCopied'
import { useMethods } from '@/composables/useMethods'

import type { Change, Computed, Method, Note, Spec } from '@/api/client'

/** One share from two numbers, without a study. What is typed stands behind the # of the
 * address, which never leaves the browser. */
const { t } = useI18n()
const { byName, error: methodsError } = useMethods()
const shareMethod = 'one-proportion'
const empty: Method = {
  name: shareMethod,
  version: 1,
  questions: [],
  inputs: [],
  texts: 'share',
  lines: [],
  tests: true,
  settings: {},
  assumptions: [],
}
const method = computed(() => byName.value.get(shareMethod) ?? empty)

const typed = useUrlSearchParams<Record<'yes' | 'n' | 'no' | 'units' | 'label' | 'ask', string | undefined>>('hash-params')
const blank = (key: 'yes' | 'n' | 'no' | 'units' | 'label') =>
  computed({ get: () => typed[key] ?? '', set: (v: string) => (typed[key] = v || undefined) })
const successes = blank('yes')
const asked = blank('n')
const no = blank('no')
const units = blank('units')
const label = blank('label')

const fromAddress = () => {
  try {
    return typed.ask ? (JSON.parse(typed.ask) as Change) : {}
  } catch {
    return {}
  }
}
const { settings, get, set, merge, inputs, lines, optionsOf } = useSettings(() => method.value, {})
watch(method, (m) => (settings.value = { ...m.settings, ...fromAddress(), success: ['yes'] }), { immediate: true })
watch(settings, (s) => (typed.ask = JSON.stringify(s)), { deep: true })

const whole = (text: string) => (/^\d{1,15}$/.test(text.replaceAll(/[\s,.]/g, '')) ? Number(text.replaceAll(/[\s,.]/g, '')) : null)
const x = computed(() => whole(successes.value))
/** How many said no: as typed, or those asked less those who said yes. */
const rest = computed(() => {
  if (no.value !== '') return whole(no.value)
  const n = whole(asked.value)
  return n === null || x.value === null ? null : n - x.value
})
const slip = computed(() => no.value === '' && rest.value !== null && rest.value < 0)

const result = shallowRef<Computed | null>(null)
const error = shallowRef<Error | null>(null)
const working = ref(false)
let current: AbortController | null = null
async function compute() {
  current?.abort()
  if (x.value === null || rest.value === null || slip.value || method.value === empty) {
    result.value = null
    return
  }
  const mine = new AbortController()
  current = mine
  const spec: Spec = { method: method.value.name, version: method.value.version, questions: ['q'], settings: settings.value }
  const categories = [{ code: 'yes', label: label.value || t('quick.yes') }, { code: 'no', label: t('quick.no_label') }]
  const counts = { units: units.value, questions: [{ key: 'q', categories, counts: [x.value, rest.value] }] }
  try {
    const found = await api.compute({ spec, counts }, mine.signal)
    if (mine.signal.aborted) return
    result.value = found
    error.value = null
  } catch (cause) {
    if (!mine.signal.aborted) error.value = cause as Error
  }
}
const pause = 200
const soon = useDebounceFn(compute, pause)
watch([x, rest, units, label, settings, method], () => void soon(), { deep: true, immediate: true })

const lacking = computed(() => (result.value?.problems ?? []).filter((p) => !p.doubt))
const doubts = computed(() => (result.value?.problems ?? []).filter((p) => p.doubt || p.remedy))
const hint = computed(() => {
  if (slip.value) return t('quick.more_yes')
  if (x.value === null || rest.value === null) return t('quick.need_numbers')
  return lacking.value.find((p) => p.remedy === null)?.text ?? ''
})
const names = computed(() => ({ units: units.value || t('quick.units_hint') }))
const picked = computed(() => [label.value || t('quick.yes')])
const writeUp = computed(() => result.value?.document?.blocks.find((b) => b.kind === 'write_up')?.lines.join('\n') ?? '')
const { copied, copy } = useCopied()
function remedy(r: NonNullable<Note['remedy']>) {
  if (r.change) merge(r.change)
}
function clear() {
  for (const key of ['yes', 'n', 'no', 'units', 'label'] as const) typed[key] = undefined
  settings.value = { ...method.value.settings, success: ['yes'] }
}
</script>

<template>
  <PlaceHead>
    <h1>{{ t('quick.title') }}</h1>
    <span class="context">{{ t('quick.lead') }}</span>
  </PlaceHead>
  <main id="page" tabindex="-1">
    <div class="beside tall">
      <div class="sheet">
        <ErrorNote v-if="methodsError" :error="methodsError" />
        <p class="sentence">
          <I18nT keypath="quick.numbers" scope="global">
            <template #successes><SentenceBlank
              v-model="successes"
              :label="t('quick.successes')"
              placeholder="734"
              :maxlength="20"
              test="yes"
            /></template>
            <template #n><SentenceBlank
              v-model="asked"
              :label="t('quick.n')"
              placeholder="1,240"
              :maxlength="20"
              test="n"
            /></template>
            <template #units><SentenceBlank
              v-model="units"
              :label="t('quick.units')"
              :placeholder="t('quick.units_hint')"
              :maxlength="60"
              test="units"
            /></template>
            <template #label><SentenceBlank
              v-model="label"
              :label="t('quick.label')"
              :placeholder="t('quick.label_hint')"
              :maxlength="120"
              test="label"
            /></template>
          </I18nT>
          {{ ' ' }}
          <I18nT keypath="quick.or_no" scope="global" tag="span" class="soft">
            <template #no><SentenceBlank v-model="no" :label="t('quick.said_no')" placeholder="506" :maxlength="20" test="no" /></template>
          </I18nT>
        </p>
        <AskSentence
          :method="method"
          :inputs="inputs"
          :lines="lines"
          :names="names"
          :picked="picked"
          :groups="[]"
          :value-of="get"
          :options-of="optionsOf"
          @set="set"
        />
        <ErrorNote v-if="error" :error="error" />
        <p
          v-for="p in doubts"
          :key="p.text"
          class="problem"
          role="alert"
        >
          {{ p.text }} <button
            v-if="p.remedy"
            type="button"
            class="act"
            @click="merge(p.remedy.change as Change)"
          >{{ p.remedy.label }}</button>
        </p>
        <p v-if="hint" class="soft" :class="{ problem: slip }" data-test="hint">{{ hint }}</p>
        <div v-if="result?.document" class="bar" data-test="result">
          <p class="soft small">{{ result.statement }}</p>
          <DocumentView :document="result.document" :working="working" @change="merge" />
          <p class="soft small">{{ result.assumptions.map((a) => a.text).join(' ') }}</p>
        </div>
        <p class="acts">
          <button
            v-if="result?.document"
            type="button"
            class="act"
            :aria-expanded="working"
            data-test="show-working"
            @click="working = !working"
          >{{ working ? t('claim.hide_working') : t('claim.working') }}</button>
          <button
            v-if="writeUp"
            type="button"
            class="act"
            @click="copy(writeUp)"
          >{{ copied ? t('topline.copied') : t('claim.write_up') }}</button>
          <button
            type="button"
            class="act"
            data-test="clear"
            @click="clear"
          >{{ t('quick.start_anew') }}</button>
        </p>
      </div>
      <div>
        <MarginNotes
          :notes="result?.document?.notes ?? []"
          class="notes"
          @remedy="remedy"
        >
          <p v-if="!result?.document">
            {{ t('quick.intro') }}
          </p>
        </MarginNotes>
      </div>
    </div>
  </main>
</template>

<style scoped>
.tall { min-height: calc(100vh - 53px); }
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 800px; margin-bottom: 4px; }
.bar { border-left: 3px solid var(--ink); padding: 2px 0 4px 20px; margin: 10px 0; }
.problem { border-left: 3px double var(--ink); padding-left: 10px; margin: 4px 0; }
.beside > div:last-child { border-left: 1px solid var(--hair); }
.notes { border-left: 0; padding: 24px 22px 0 18px; }
@media (max-width: 640px) { .bar { padding-left: 12px; overflow-x: auto; } }
</style>

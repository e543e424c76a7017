<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import AskSentence from '@/components/asking/AskSentence.vue'
import { useSettings } from '@/components/asking/useSettings'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import DocumentView from '@/components/document/DocumentView.vue'
import WriteUp from '@/components/document/WriteUp.vue'
import ErrorNote from '@/components/ErrorNote.vue'
import HelpNote from '@/components/HelpNote.vue'
import MarginNotes from '@/components/MarginNotes.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import { useAnswer } from '@/composables/useAnswer'
import { useHelp } from '@/composables/useHelp'
import { useMethods } from '@/composables/useMethods'

import QuickKeep from './QuickKeep.vue'
import TypedNumbers from './TypedNumbers.vue'
import { useTyped } from './useTyped'

import type { Change, Method, Note } from '@/api/client'

/** Every method without a study: numbers typed into a sentence or cells, the result as they
 * are typed. What is typed stands behind the # of the address. */
const { t } = useI18n()
const { byName, error: methodsError } = useMethods()
const { address, typed, set: setBlank, cells, tooLong, written, clear: clearTyped } = useTyped()
/** Handed on as a whole: what is typed quickly is never read from a page that is not drawn yet. */
const state = { cells }
const empty: Method = {
  name: '',
  version: 1,
  questions: [],
  inputs: [],
  texts: '',
  lines: [],
  mode: 'tests',
  settings: {},
  rank: 0,
  purpose: 'look',
  assumptions: [],
}

const quick = computed(() => [...byName.value.values()].filter((m) => m.quick).sort((a, b) => a.rank - b.rank))
/** What is typed most is two numbers: how many said yes, of how many. */
const firstShape = 'yes_no'
const first = computed(() => quick.value.find((m) => m.quick === firstShape))
const method = computed(() => quick.value.find((m) => m.name === address['check']) ?? first.value ?? empty)
const shape = computed(() => method.value.quick ?? '')
const shapes = computed(() => [...new Set(quick.value.map((m) => m.quick ?? ''))]
  .map((value) => ({ value, title: t(`quick.shape.${value}.have`) })))
const ofShape = computed(() => quick.value.filter((m) => m.quick === shape.value)
  .map((m) => ({ value: m.name, title: t(`quick.want.${m.texts}`) })))
/** Numbers stay where another thing is asked of them; other numbers begin with the first thing. */
function choose(name: string | undefined) {
  if (!name || name === method.value.name) return
  const other = byName.value.get(name)?.quick !== shape.value
  address['check'] = name === first.value?.name ? undefined : name
  address['ask'] = undefined
  if (other) cells.value = []
}
const chooseShape = (to: string) => choose(quick.value.find((m) => m.quick === to)?.name)

const fromAddress = () => {
  try {
    return address['ask'] ? (JSON.parse(address['ask']) as Change) : {}
  } catch {
    return {}
  }
}
const { settings, get, set, merge, inputs, lines, optionsOf } = useSettings(() => method.value, {})
watch(method, (m) => (settings.value = { ...m.settings, ...fromAddress() }), { immediate: true })
watch(settings, (s) => (address['ask'] = JSON.stringify(s) === JSON.stringify(method.value.settings)
  ? undefined : JSON.stringify(s)), { deep: true })
const hasFigures = computed(() => inputs.value.some((i) => i.kind === 'figures'))
/** Shares that do not add up are rescaled on request, as they stand then. */
watch(() => cells.value.map((r) => r[2] ?? '').join('\t'), () => get('shares.rescale') === true && set('shares.rescale', false))

const body = computed(() => ({ method: method.value.name, settings: settings.value, ...written.value }))
const { answer, settled, error } = useAnswer('quick', () => (method.value === empty ? null : body.value), api.quick)
const result = computed(() => (error.value ? null : (answer.value?.computed ?? null)))
const lacking = computed(() => (result.value?.problems ?? []).filter((p) => !p.doubt))
const doubts = computed(() => (result.value?.problems ?? []).filter((p) => p.doubt || p.remedy))
const working = ref(false)
const slip = computed(() => answer.value?.slip ?? '')
const hint = computed(() => slip.value || answer.value?.needs || (lacking.value.find((p) => p.remedy === null)?.text ?? ''))
const twoGroups = computed(() => [
  { code: '1', label: typed.value.first || t('quick.first_group') },
  { code: '2', label: typed.value.second || t('quick.second_group') },
])
const names = computed(() => ({
  units: typed.value.units || t('quick.respondents'),
  question: typed.value.question || t('quick.these_answers'),
  other: typed.value.other || t('quick.these_groups'),
  third: typed.value.layers || t('quick.the_layers'),
  ...(shape.value === 'two_yes_no'
    ? { groups_first: `“${twoGroups.value[0]!.label}”`, groups_second: `“${twoGroups.value[1]!.label}”` }
    : {}),
}))
const picked = computed(() => [typed.value.label || t('quick.yes')])
const fourNames = computed(() => twoGroups.value.flatMap((g) => [`${g.label}: ${picked.value[0]}`, `${g.label}: ${t('quick.not_so')}`]))
/** Without a study nothing else can be opened from a result. */
const shown = computed(() => {
  const found = result.value?.document
  return found && { ...found, blocks: found.blocks.filter((b) => !b.choices?.options.some((o) => o.ask)) }
})
const hasWorking = computed(() => result.value?.document?.blocks.some((b) => b.kind === 'working') ?? false)
const { topics } = useHelp()
const explained = ref('')
const topic = computed(() => topics.value.get(explained.value))
watch(method, () => (explained.value = ''))
function remedy(r: NonNullable<Note['remedy']>) {
  if (r.change) merge(r.change)
}
/** A study of these counts, with what is asked of them. */
const canBeKept = computed(() => settled.value && result.value?.keepable && result.value.document)
const keeping = ref(false)
function clear() {
  clearTyped()
  settings.value = { ...method.value.settings }
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
        <p v-if="quick.length" class="sentence">
          <I18nT keypath="quick.start" scope="global">
            <template #have><ChoiceMenu
              :model-value="shape"
              :items="shapes"
              :label="t('quick.have')"
              test="shape"
              @update:model-value="chooseShape"
            /></template>
            <template #want><ChoiceMenu
              :model-value="method.name"
              :items="ofShape"
              :label="t('quick.wanted')"
              test="check"
              @update:model-value="choose"
            /></template>
          </I18nT>
        </p>
        <TypedNumbers
          v-if="method !== empty && shape !== 'nothing'"
          :key="shape"
          :shape="shape"
          :figures="hasFigures"
          :typed="typed"
          :state="state"
          :names="fourNames"
          @set="setBlank"
        />
        <AskSentence
          v-if="lines.length"
          :method="method"
          :inputs="inputs"
          :lines="lines"
          :names="names"
          :picked="picked"
          :groups="twoGroups"
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
        <p v-if="tooLong" class="soft small" role="status">{{ t('quick.too_long') }}</p>
        <div v-if="result && shown" class="bar" data-test="result">
          <p v-if="result.statement" class="soft small">{{ result.statement }}</p>
          <DocumentView :document="shown" :working="working" @change="merge" @explain="explained = $event" />
          <p class="soft small">{{ result.assumptions.map((a) => a.text).join(' ') }}</p>
        </div>
        <p class="acts">
          <button
            v-if="hasWorking"
            type="button"
            class="act"
            :aria-expanded="working"
            data-test="show-working"
            @click="working = !working"
          >{{ working ? t('claim.hide_working') : t('claim.working') }}</button>
          <WriteUp v-if="result?.document" :document="result.document" />
          <button
            v-if="canBeKept"
            type="button"
            class="act"
            :aria-expanded="keeping"
            data-test="keep-open"
            @click="keeping = !keeping"
          >{{ t('quick.keep') }}</button>
          <button
            v-if="topics.has(method.name)"
            type="button"
            class="act"
            :aria-expanded="explained === method.name"
            data-test="explain"
            @click="explained = explained === method.name ? '' : method.name"
          >{{ t('claim.what_is_this') }}</button>
          <button
            type="button"
            class="act"
            data-test="clear"
            @click="clear"
          >{{ t('quick.start_anew') }}</button>
        </p>
        <QuickKeep v-if="keeping && canBeKept" :body="body" />
      </div>
      <div>
        <MarginNotes
          :notes="(result?.document?.notes ?? []).map((n) => (n.remedy && n.remedy.action !== 'change' ? { ...n, remedy: null } : n))"
          class="notes"
          @remedy="remedy"
        >
          <HelpNote v-if="topic" :topic="topic" @close="explained = ''" />
          <p v-if="!result?.document && !topic">
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

<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/parts/format'
import SentenceBlank from '@/parts/SentenceBlank.vue'
import SentenceChoice from '@/parts/SentenceChoice.vue'

import type { Arrival, Settings } from '@/api/client'

const props = defineProps<{ arrival: Arrival; suggestedName: string; keeping: boolean }>()
const emit = defineEmits<{ settings: [settings: Settings]; keep: [name: string, units: string]; another: [] }>()
const { t } = useI18n()
const name = ref(props.suggestedName)
const units = ref('')

const encodings = [
  { value: 'utf-8', title: 'UTF-8' },
  { value: 'windows-1252', title: 'Windows-1252' },
  { value: 'utf-16le', title: 'UTF-16 LE' },
  { value: 'utf-16be', title: 'UTF-16 BE' },
] as const
const delimiters = computed(() => [
  { value: ',' as const, title: t('intake.delimiters.comma') },
  { value: ';' as const, title: t('intake.delimiters.semicolon') },
  { value: '\t' as const, title: t('intake.delimiters.tab') },
  { value: '|' as const, title: t('intake.delimiters.pipe') },
])
const headers = computed(() => [
  { value: true, title: t('intake.is_header') },
  { value: false, title: t('intake.is_answers') },
])

const problems = computed(() => (props.arrival.problem ? [props.arrival.problem] : (props.arrival.preview?.problems ?? [])))
const remedies = computed(() => [...new Set(problems.value.map((p) => p.remedy).filter((r) => r !== null))])
const ready = computed(() => props.arrival.preview !== null && problems.value.length === 0)

function set(change: Partial<Settings>) {
  emit('settings', { ...props.arrival.settings, ...change })
}

function cure(remedy: 'padShort' | 'fixNames' | 'windows1252') {
  set(remedy === 'windows1252' ? { encoding: 'windows-1252' } : { [remedy]: true })
}
</script>

<template>
  <div class="beside tall">
    <div class="sheet">
      <p class="acts found">
        <strong class="serif">{{ arrival.name }}</strong>
        <span v-if="arrival.preview" class="soft" data-test="found">{{ t('intake.found', { rows: count(arrival.preview.rows), columns: count(arrival.preview.names.length) }) }}</span>
        <button type="button" class="act" @click="$emit('another')">{{ t('intake.another') }}</button>
      </p>
      <p class="sentence">
        {{ t('intake.how') }}
        <SentenceChoice :model-value="arrival.settings.encoding" :items="encodings" :label="t('intake.encoding')" @update:model-value="set({ encoding: $event })" />,
        {{ t('intake.delimiter') }}
        <SentenceChoice :model-value="arrival.settings.delimiter" :items="delimiters" :label="t('intake.delimiter')" test="delimiter" @update:model-value="set({ delimiter: $event })" />;
        {{ t('intake.header') }}
        <SentenceChoice :model-value="arrival.settings.header" :items="headers" :label="t('intake.header')" test="header" @update:model-value="set({ header: $event })" />.
      </p>
      <section v-if="problems.length" class="problems" role="alert" data-test="intake-problems">
        <h2>{{ t('intake.problems') }}</h2>
        <p v-if="arrival.preview && arrival.preview.ragged > 1">{{ t('intake.ragged', arrival.preview.ragged) }}</p>
        <ul>
          <li v-for="(p, i) in problems" :key="i">{{ p.text }}</li>
        </ul>
        <p class="acts">
          <button v-for="r in remedies" :key="r" type="button" class="act" @click="cure(r)">{{ t(`intake.remedies.${r}`) }}</button>
        </p>
      </section>
      <form v-if="ready" class="keep" @submit.prevent="$emit('keep', name, units)">
        <p class="sentence">
          {{ t('intake.keep_line_1') }}
          <SentenceBlank v-model="name" :label="t('intake.name_hint')" :placeholder="t('intake.name_hint')" :maxlength="120" required test="study-name" />{{ t('intake.keep_line_2') }}
          <SentenceBlank v-model="units" :label="t('topline.units_edit')" :placeholder="t('intake.units_hint')" :maxlength="40" test="units" />.
        </p>
        <v-btn type="submit" variant="flat" color="primary" size="large" :disabled="name.trim() === '' || keeping" :loading="keeping" data-test="keep">{{ t('intake.keep') }}</v-btn>
      </form>
      <section v-if="arrival.preview" class="first">
        <h2>{{ t('intake.first') }}</h2>
        <div class="scroll" tabindex="0" role="region" :aria-label="t('intake.first')">
          <table>
            <thead>
              <tr><th v-for="(n, i) in arrival.preview.names" :key="i" scope="col">{{ n }}</th></tr>
            </thead>
            <tbody>
              <tr v-for="(row, i) in arrival.preview.first" :key="i"><td v-for="(cell, k) in row" :key="k">{{ cell }}</td></tr>
            </tbody>
          </table>
        </div>
      </section>
    </div>
    <aside class="margin notes">
      <p>{{ t('intake.note_check') }}</p>
      <p>{{ t('intake.note_missing') }}</p>
      <p>{{ t('intake.note_file') }}</p>
      <p v-if="arrival.settings.padShort">{{ t('intake.padded') }} <button type="button" class="act" @click="set({ padShort: false })">{{ t('intake.undo_setting') }}</button></p>
      <p v-if="arrival.settings.fixNames">{{ t('intake.fixed') }} <button type="button" class="act" @click="set({ fixNames: false })">{{ t('intake.undo_setting') }}</button></p>
    </aside>
  </div>
</template>

<style scoped>
.tall { min-height: calc(100vh - 53px); }
.found strong { font-size: 18.5px; font-weight: 600; overflow-wrap: anywhere; }
.sentence { font: 500 18px/2.1 'Source Serif 4 Variable', serif; margin-top: 8px; }
h2 { font-size: 16px; font-weight: 600; margin-bottom: 6px; }
.problems { border-left: 3px solid var(--rust); padding: 2px 0 2px 16px; margin: 14px 0; max-width: 760px; }
.problems ul { padding-left: 18px; margin-bottom: 6px; }
.keep { margin: 6px 0 10px; }
.first { margin-top: 26px; }
.scroll { overflow-x: auto; max-width: 100%; border-top: 1px solid var(--rule); }
.scroll table { border-collapse: collapse; font-size: 14px; }
.scroll th { text-align: left; font-weight: 600; white-space: nowrap; }
.scroll th, .scroll td { vertical-align: top; padding: 4px 16px 4px 0; border-bottom: 1px solid var(--hair); }
.scroll td { white-space: pre; max-width: 260px; overflow: hidden; text-overflow: ellipsis; }
.notes { font: italic 14.5px/1.42 'Source Serif 4 Variable', serif; color: var(--soft); padding-top: 24px !important; }
.notes p { margin-bottom: 14px; }
.notes .act { font: 600 14px 'Source Sans 3 Variable', sans-serif; }
</style>

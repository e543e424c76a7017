<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import SentenceBlank from '@/components/SentenceBlank.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'

import type { Arrival, Settings } from '@/api/client'

/** How a file is read, as a sentence whose blanks are the settings. */
const props = defineProps<{ arrival: Arrival }>()
const emit = defineEmits<{ settings: [settings: Settings] }>()
const { t } = useI18n()
const s = computed(() => props.arrival.settings)
const set = (change: Partial<Settings>) => emit('settings', { ...s.value, ...change })

const encodings = [
  { value: 'utf-8', title: 'UTF-8' },
  { value: 'windows-1252', title: 'Windows-1252' },
  { value: 'utf-16le', title: 'UTF-16 LE' },
  { value: 'utf-16be', title: 'UTF-16 BE' },
] as const
const marks = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'pipe', ':': 'colon', ' ': 'blank' } as const
const delimiters = computed(() =>
  (Object.keys(marks) as (keyof typeof marks)[]).map((value) => ({ value, title: t(`intake.delimiters.${marks[value]}`) })),
)
const headers = computed(() => {
  const last = Math.max(5, s.value.headerRow)
  return [
    ...Array.from({ length: last }, (_, i) => ({ value: i + 1, title: t('intake.header_in', { n: i + 1 }) })),
    { value: 0, title: t('intake.header_none') },
  ]
})
const shapes = computed(() =>
  (['rows', 'counts', 'grid', 'two', 'classes'] as const).map((value) => ({ value, title: t(`intake.shapes.${value}`) })),
)
const parts = computed(() => props.arrival.parts.map((value) => ({ value, title: value })))
const part = computed(() => s.value.part || props.arrival.parts[0] || '')
const names = computed(() =>
  (props.arrival.preview?.names ?? (s.value.countColumn ? [s.value.countColumn] : [])).map((value) => ({ value, title: value })),
)
const seconds = computed(() => (['asked', 'no'] as const).map((value) => ({ value, title: t(`intake.second.${value}`) })))
const reaches = computed(() => [
  { value: '' as const, title: t('intake.up_to.ask') },
  ...(['upper', 'next'] as const).map((value) => ({ value, title: t(`intake.up_to.${value}`) })),
])

function setShape(shape: Settings['shape']) {
  const last = props.arrival.preview?.names.at(-1) ?? ''
  set({
    shape,
    countColumn: shape === 'counts' ? s.value.countColumn || last : '',
    second: shape === 'two' ? s.value.second || 'asked' : '',
  })
}

const limit = (x: number | null | undefined) => (x === null || x === undefined ? '' : String(x))
const from = ref(limit(s.value.openFrom))
const to = ref(limit(s.value.openTo))
watch([from, to], () => {
  const read = (text: string) => (text.trim() === '' || Number.isNaN(Number(text)) ? null : Number(text))
  set({ openFrom: read(from.value), openTo: read(to.value) })
})
</script>

<template>
  <p class="sentence">
    <template v-if="s.format === 'delimited'">
      {{ t('intake.how') }} <ChoiceMenu
        :model-value="s.encoding"
        :items="encodings"
        :label="t('intake.encoding')"
        @update:model-value="set({ encoding: $event })"
      />, {{ t('intake.delimiter') }}
      <ChoiceMenu
        :model-value="s.delimiter"
        :items="delimiters"
        :label="t('intake.delimiter')"
        test="delimiter"
        @update:model-value="set({ delimiter: $event })"
      />;
    </template>
    <template v-else>
      {{ t(`intake.from.${s.format}`) }} <ChoiceMenu
        v-if="parts.length"
        :model-value="part"
        :items="parts"
        :label="t(`intake.from.${s.format}`)"
        test="part"
        @update:model-value="set({ part: $event })"
      />;
    </template>
    {{ t('intake.header') }} <ChoiceMenu
      :model-value="s.headerRow"
      :items="headers"
      :label="t('intake.header')"
      test="header"
      @update:model-value="set({ headerRow: $event, headerSaid: true })"
    />.
    {{ t('intake.holds') }} <ChoiceMenu
      :model-value="s.shape"
      :items="shapes"
      :label="t('intake.holds')"
      test="shape"
      @update:model-value="setShape"
    /><template v-if="s.shape === 'counts'">{{ t('intake.counts_in') }}
      <ChoiceMenu
        :model-value="s.countColumn"
        :items="names"
        :label="t('intake.counts_in')"
        test="count-column"
        @update:model-value="set({ countColumn: $event })"
      /></template><template v-if="s.shape === 'two'">{{ t('intake.second_line') }}
      <ChoiceMenu
        :model-value="s.second === 'no' ? 'no' : 'asked'"
        :items="seconds"
        :label="t('intake.second_means')"
        test="second"
        @update:model-value="set({ second: $event })"
      /></template><template v-if="s.shape === 'classes'">{{ t('intake.up_to_line') }}
      <ChoiceMenu
        :model-value="s.upTo"
        :items="reaches"
        :label="t('intake.up_to_line')"
        test="up-to"
        @update:model-value="set({ upTo: $event })"
      />{{ t('intake.open_line') }}
      <SentenceBlank
        v-model="from"
        :label="t('intake.open_from')"
        :placeholder="t('intake.open')"
        :maxlength="12"
        test="open-from"
      /> {{ t('intake.open_and') }}
      <SentenceBlank
        v-model="to"
        :label="t('intake.open_to')"
        :placeholder="t('intake.open')"
        :maxlength="12"
        test="open-to"
      /></template>.
  </p>
</template>

<style scoped>
.sentence { font: 500 18px/2.1 'Source Serif 4 Variable', serif; margin-top: 8px; }
</style>

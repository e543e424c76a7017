<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'
import CountCells from '@/components/CountCells.vue'
import SentenceBlank from '@/components/SentenceBlank.vue'
import { useGrid, wholeOf } from '@/composables/useGrid'

import type { ShareSetBody } from '@/api/client'

/** A set of shares: a sentence that says where they come from, and a figure for each answer. */
const props = defineProps<{ start: Partial<ShareSetBody>; busy: boolean }>()
const emit = defineEmits<{ save: [set: ShareSetBody]; cancel: [] }>()
const { t } = useI18n()

const texts = ['title', 'publisher', 'date', 'population', 'place', 'link'] as const
const typed = ref(Object.fromEntries(texts.map((name) => [name, props.start[name] ?? ''])) as Record<(typeof texts)[number], string>)
const kind = ref<string>(props.start.kind ?? '')
const scale = ref<string>(props.start.scale ?? '')
const n = ref(props.start.n ? String(props.start.n) : '')
const note = ref(props.start.note ?? '')
const codes = new Map((props.start.answers ?? []).map((a) => [a.label, a.code]))
const cells = shallowRef<string[][]>(props.start.answers?.length ? [['', ''], ...props.start.answers.map((a) => [a.label, a.figure])] : [])
const grid = useGrid(cells, 2, [1])
const { addRow, undo, canUndo } = grid

const kinds = computed(() => ['register', 'report', 'survey', 'target', 'theory']
  .map((value) => ({ value, title: t(`ask.goodness_of_fit.options.shares.source.kind.${value}`) })))
const scales = computed(() => ['percents', 'proportions', 'ratio', 'counts']
  .map((value) => ({ value, title: t(`ask.goodness_of_fit.options.shares.scale.${value}`) })))
const ready = computed(
  () =>
    typed.value.title.trim() !== '' &&
    kind.value !== '' &&
    scale.value !== '' &&
    cells.value.slice(1).filter((r) => r.some((c) => c !== '')).length > 1,
)
function save() {
  if (!ready.value) return
  const asked = Object.fromEntries(Object.entries(typed.value).flatMap(([name, text]) => (text.trim() ? [[name, text.trim()]] : [])))
  const answers = cells.value.slice(1).filter((r) => r.some((c) => c !== '')).map((r) => {
    const code = codes.get(r[0]!)
    return { label: r[0]!, ...(code ? { code } : {}), figure: r[1]! }
  })
  emit('save', {
    ...asked,
    ...(kind.value === 'survey' && wholeOf(n.value) ? { n: wholeOf(n.value)! } : {}),
    ...(note.value.trim() ? { note: note.value.trim() } : {}),
    kind: kind.value,
    scale: scale.value,
    answers,
  } as ShareSetBody)
}
</script>

<template>
  <form class="set-form" data-test="set-form" @submit.prevent="save">
    <p class="sentence">
      <I18nT keypath="shares.says" scope="global">
        <template
          v-for="name in texts"
          :key="name"
          #[name]
        ><SentenceBlank
          v-model="typed[name]"
          :label="t(`shares.label.${name}`)"
          :placeholder="t(`shares.hint.${name}`)"
          :maxlength="160"
          :test="name"
        /></template>
        <template #kind><ChoiceMenu
          v-model="kind"
          :items="kinds"
          :label="t('shares.label.kind')"
          :placeholder="t('shares.hint.kind')"
          test="kind"
        /></template>
        <template #scale><ChoiceMenu
          v-model="scale"
          :items="scales"
          :label="t('shares.label.scale')"
          :placeholder="t('shares.hint.scale')"
          test="scale"
        /></template>
      </I18nT>
      {{ ' ' }}
      <I18nT v-if="kind === 'survey'" keypath="shares.of_sample" scope="global">
        <template #n><SentenceBlank v-model="n" :label="t('shares.label.n')" placeholder="1,100" :maxlength="20" test="n" /></template>
      </I18nT>
    </p>
    <p class="soft small">{{ t('quick.shape.answers.cells') }}</p>
    <CountCells
      :grid="grid"
      list
      :heads="[t('topline.answer'), t('shares.figure')]"
      :uncounted="[1]"
      :hint="t('grid.down_hint')"
      test="set-cells"
    />
    <p class="acts small">
      <button type="button" class="act" @click="addRow">{{ t('grid.add_row') }}</button>
      <button type="button" class="act" :disabled="!canUndo" @click="undo">{{ t('app.undo') }}</button>
    </p>
    <v-textarea v-model="note" :label="t('shares.label.note')" rows="1" auto-grow maxlength="2000" class="note" />
    <p class="acts">
      <v-btn type="submit" variant="flat" color="primary" :disabled="!ready || busy" data-test="set-save">{{ t('shares.save') }}</v-btn>
      <button type="button" class="act" @click="$emit('cancel')">{{ t('app.cancel') }}</button>
    </p>
  </form>
</template>

<style scoped>
.set-form { border-left: 3px solid var(--teal); padding: 2px 0 4px 20px; margin: 6px 0 18px; }
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 820px; margin-bottom: 4px; }
.note { max-width: 620px; }
.acts { align-items: center; margin-bottom: 8px; }
</style>

<script setup lang="ts">
import { computed, watch } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import CountCells from '@/components/CountCells.vue'
import SentenceBlank from '@/components/SentenceBlank.vue'
import { useGrid } from '@/composables/useGrid'

import type { Ref } from 'vue'
import type { Blank } from './useTyped'

/** The numbers of a quick check: a sentence whose blanks they are, or cells. */
const props = defineProps<{
  shape: string
  figures: boolean
  typed: Record<Blank, string>
  state: { cells: Ref<string[][]> }
  names: string[]
}>()
defineEmits<{ set: [blank: Blank, text: string] }>()
const { t } = useI18n()
const { cells } = props.state // the page keeps one for as long as it stands

const inSentence: Record<string, Blank[]> = {
  yes_no: ['yes', 'n', 'units', 'label'],
  two_yes_no: ['yes', 'n', 'units', 'first', 'label', 'yes2', 'n2', 'second'],
  answers: ['units', 'question'],
  table: ['units', 'question', 'other'],
  square: ['units', 'question', 'other'],
  layers: ['units', 'question', 'label', 'other', 'first', 'second', 'layers'],
  patterns: ['units', 'question'],
  summary: ['n', 'units', 'question', 'mean', 'sd'],
  two_summaries: ['first', 'n', 'units', 'question', 'mean', 'sd', 'second', 'n2', 'mean2', 'sd2'],
  numbers: ['units', 'question'],
}
const asked = computed(() => inSentence[props.shape] ?? [])
const most = (blank: Blank) => (['units', 'label', 'first', 'second', 'question', 'other', 'layers'].includes(blank) ? 120 : 20)

/** Of these a design effect can be told; of one share the effective number, too. */
const effects: Record<string, Blank[]> = {
  yes_no: ['effect', 'effective'], two_yes_no: ['effect'], answers: ['effect'], table: ['effect'], layers: ['effect'], square: ['effect'],
}
const effect = computed(() => effects[props.shape] ?? [])

/** The columns of the cells; without headings they are typed, too. */
const heads = computed<string[] | undefined>(() => {
  switch (props.shape) {
    case 'answers':
      return [t('topline.answer'), t('topline.count'), ...(props.figures ? [t('quick.expected')] : [])]
    case 'layers':
      return [t('quick.layer'), ...props.names]
    case 'numbers':
      return [t('quick.from'), t('quick.to'), t('topline.count')]
  }
  return undefined
})
const hasCells = computed(() => ['answers', 'table', 'square', 'layers', 'patterns', 'numbers'].includes(props.shape))
const width = computed(() => heads.value?.length ?? 3)
const uncounted = props.shape === 'answers' ? [2] : props.shape === 'numbers' ? [1] : props.shape === 'patterns'
  ? Array.from({ length: 62 }, (_, k) => k + 1) : []
const grid = useGrid(cells, width.value, uncounted)
const { addRow, addColumn, canUndo, undo } = grid
watch(width, (w) => {
  const at = cells.value[0]?.length ?? 0
  if (heads.value && at !== w) grid.fit(w)
})
/** The same answers stand down as across. */
watch(() => cells.value[0]?.length ?? 0, (columns) => {
  if (props.shape === 'square') while (cells.value.length < columns) addRow()
}, { immediate: true })
</script>

<template>
  <p v-if="asked.length" class="sentence">
    <I18nT :keypath="`quick.shape.${shape}.says`" scope="global">
      <template v-for="blank in asked" :key="blank" #[blank]><SentenceBlank
        :model-value="typed[blank]"
        :label="t(`quick.blank.${blank}`)"
        :placeholder="t(`quick.hint.${blank}`)"
        :maxlength="most(blank)"
        :test="blank"
        @update:model-value="$emit('set', blank, $event)"
      /></template>
    </I18nT>
    {{ ' ' }}
    <I18nT v-if="shape === 'yes_no'" keypath="quick.or_no" scope="global" tag="span" class="soft">
      <template #no><SentenceBlank
        :model-value="typed.no"
        :label="t('quick.blank.no')"
        :placeholder="t('quick.hint.no')"
        :maxlength="20"
        test="no"
        @update:model-value="$emit('set', 'no', $event)"
      /></template>
    </I18nT>
  </p>
  <p v-if="effect.length" class="sentence effect">
    <I18nT :keypath="effect.length > 1 ? 'quick.effect_of_share' : 'quick.effect_of'" scope="global" tag="span" class="soft">
      <template v-for="blank in effect" :key="blank" #[blank]><SentenceBlank
        :model-value="typed[blank]"
        :label="t(`quick.blank.${blank}`)"
        :placeholder="t(`quick.hint.${blank}`)"
        :maxlength="20"
        :test="blank"
        @update:model-value="$emit('set', blank, $event)"
      /></template>
    </I18nT>
  </p>
  <v-textarea
    v-if="shape === 'numbers'"
    :model-value="typed.list"
    :label="t('quick.list')"
    rows="2"
    auto-grow
    maxlength="20000"
    spellcheck="false"
    class="list"
    data-test="list"
    @update:model-value="$emit('set', 'list', $event ?? '')"
  />
  <template v-if="hasCells && !(shape === 'numbers' && typed.list.trim())">
    <p class="soft small">{{ t(`quick.shape.${shape}.cells`) }}</p>
    <CountCells
      :grid="grid"
      :list="shape === 'answers'"
      v-bind="heads ? { heads } : {}"
      :corner="t(shape === 'patterns' ? 'topline.count' : 'quick.corner')"
      :mirrored="shape === 'square'"
      :uncounted="uncounted"
      :hint="t(shape === 'answers' ? 'grid.down_hint' : shape === 'numbers'
        ? 'quick.from' : shape === 'patterns' ? 'grid.count' : 'quick.hint.row')"
      test="cells"
    />
    <p class="acts small">
      <button v-if="shape !== 'square'" type="button" class="act" @click="addRow">{{ t('grid.add_row') }}</button>
      <button v-if="!heads" type="button" class="act" data-test="add-column" @click="addColumn">{{ t('grid.add_column') }}</button>
      <button type="button" class="act" :disabled="!canUndo" @click="undo">{{ t('app.undo') }}</button>
    </p>
  </template>
</template>

<style scoped>
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 800px; margin-bottom: 4px; }
.effect { font-size: 15px; }
.list { max-width: 620px; }
.acts { margin-bottom: 10px; }
</style>

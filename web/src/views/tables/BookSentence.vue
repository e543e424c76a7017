<script setup lang="ts">
import { computed, ref } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import CellField from '@/components/CellField.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'

import type { BooksPage, TableBook } from '@/api/client'

/** What a table book says of itself, a sentence whose blanks are its settings. */
const props = defineProps<{ book: TableBook; page: BooksPage; designed: boolean }>()
const emit = defineEmits<{ change: [edit: (b: TableBook) => void]; banner: [id: number | null] }>()
const { t } = useI18n()
const picking = ref(false)
type Figures = NonNullable<TableBook['figures']>
const sections = computed(() => [...new Set(props.page.questions.filter((q) => q.table).map((q) => q.section).filter((s) => s !== ''))])
const tabled = computed(() => props.page.questions.filter((q) => q.table))
const which = computed(() => {
  const c = props.book.choice
  if (c.which === 'sections') return `s:${c.sections?.[0] ?? ''}`
  return c.which
})
const choices = computed(() => [
  { value: 'all', title: t('tables.choice.all', { n: tabled.value.length }) },
  ...sections.value.map((s) => ({ value: `s:${s}`, title: t('tables.choice.section', { section: s }) })),
  { value: 'picked', title: t('tables.choice.picked', { n: props.book.choice.questions?.length ?? 0 }) },
])
function choose(value: string) {
  picking.value = value === 'picked'
  emit('change', (b) => {
    if (value.startsWith('s:')) b.choice = { which: 'sections', sections: [value.slice(2)] }
    else if (value === 'picked') b.choice = { which: 'picked', questions: b.choice.questions?.length ? b.choice.questions : firstTabled() }
    else b.choice = { which: 'all' }
  })
}
const firstTabled = () => tabled.value.slice(0, 1).map((q) => String(q.id))
const pick = (keys: string[]) => keys.length && emit('change', (b) => (b.choice = { which: 'picked', questions: keys }))
const banners = computed(() => [
  ...props.page.banners.map((b) => ({ value: b.id, title: b.name })),
  { value: 0, title: t('tables.new_banner') },
])
const whom = computed(() => [
  { value: '', title: t('tables.everyone') },
  ...props.page.subgroups.map((g) => ({ value: String(g.id), title: g.name })),
])
const sets: Figures[] = [
  ['column_percent'], ['column_percent', 'observed'], ['column_percent', 'standard_error'], ['row_percent'], ['observed'],
  ['column_percent', 'row_percent', 'observed'],
]
const figures = computed(() => sets.map((s) => ({ value: s.join(' '), title: t(`tables.figures.${s.join('_')}`) })))
const orders = computed(() => (['asked', 'size', 'label'] as const).map((value) => ({ value, title: t(`tables.order.${value}`) })))
const against = computed(() => (['', 'columns', 'others'] as const)
  .map((value) => ({ value, title: t(`tables.against.${value || 'none'}`) })))
const percents = (l: number[]) => l.map((x) => `${x * 100} %`).join(t('tables.and'))
const levels = computed(() => [[0.05], [0.1], [0.01], [0.05, 0.01], [0.1, 0.05]]
  .map((l) => ({ value: l.join(' '), title: t('tables.levels', { levels: percents(l) }) })))
const adjusts = computed(() => (['holm', 'benjamini_hochberg', 'none'] as const)
  .map((value) => ({ value, title: t(`tables.adjust.${value}`) })))
const weights = computed(() => [{ value: false, title: t('tables.estimated') }, { value: true, title: t('tables.unweighted') }])
function base(member: 'few' | 'least', text: string, field: HTMLInputElement) {
  const n = Number(text.trim() || '0')
  if (!Number.isInteger(n) || n < 0) field.value = String(props.book[member] ?? 0)
  else emit('change', (b) => (b[member] = n))
}
</script>

<template>
  <p class="sentence" data-test="book-sentence">
    <I18nT keypath="tables.sentence" scope="global">
      <template #which><ChoiceMenu
        :model-value="which"
        :items="choices"
        :label="t('tables.labels.which')"
        test="which"
        @update:model-value="choose"
      /></template>
      <template #banner><ChoiceMenu
        :model-value="Number(book.banner)"
        :items="banners"
        :label="t('tables.labels.banner')"
        test="banner-of"
        @update:model-value="emit('banner', $event || null)"
      /></template>
      <template #whom><ChoiceMenu
        :model-value="book.subgroup ?? ''"
        :items="whom"
        :label="t('tables.labels.whom')"
        test="whom"
        @update:model-value="(v) => emit('change', (b) => (b.subgroup = v))"
      /></template>
      <template #figures><ChoiceMenu
        :model-value="(book.figures?.length ? book.figures : ['column_percent']).join(' ')"
        :items="figures"
        :label="t('tables.labels.figures')"
        test="figures"
        @update:model-value="(v) => emit('change', (b) => (b.figures = v.split(' ') as Figures))"
      /></template>
      <template #order><ChoiceMenu
        :model-value="book.order || 'asked'"
        :items="orders"
        :label="t('tables.labels.order')"
        test="order"
        @update:model-value="(v) => emit('change', (b) => (b.order = v))"
      /></template>
    </I18nT>
    {{ ' ' }}
    <I18nT :keypath="book.differences.against ? 'tables.differ' : 'tables.differ_not'" scope="global">
      <template #against><ChoiceMenu
        :model-value="book.differences.against ?? ''"
        :items="against"
        :label="t('tables.labels.against')"
        test="against"
        @update:model-value="(v) => emit('change', (b) => (b.differences.against = v))"
      /></template>
      <template #levels><ChoiceMenu
        :model-value="(book.differences.levels?.length ? book.differences.levels : [0.05]).join(' ')"
        :items="levels"
        :label="t('tables.labels.levels')"
        test="levels"
        @update:model-value="(v) => emit('change', (b) => (b.differences.levels = v.split(' ').map(Number)))"
      /></template>
      <template #adjust><ChoiceMenu
        :model-value="book.differences.adjust || 'holm'"
        :items="adjusts"
        :label="t('tables.labels.adjust')"
        test="adjust"
        @update:model-value="(v) => emit('change', (b) => (b.differences.adjust = v))"
      /></template>
    </I18nT>
    {{ ' ' }}
    <I18nT keypath="tables.bases" scope="global">
      <template #few><CellField
        class="number"
        inputmode="numeric"
        :value="book.few ?? 0"
        :label="t('tables.labels.few')"
        data-test="few"
        @change="(text, field) => base('few', text, field)"
      /></template>
      <template #least><CellField
        class="number"
        inputmode="numeric"
        :value="book.least ?? 0"
        :label="t('tables.labels.least')"
        data-test="least"
        @change="(text, field) => base('least', text, field)"
      /></template>
    </I18nT>
    <template v-if="designed">{{ ' ' }}<I18nT keypath="tables.weighted" scope="global">
      <template #how><ChoiceMenu
        :model-value="book.unweighted ?? false"
        :items="weights"
        :label="t('tables.labels.weighted')"
        test="unweighted"
        @update:model-value="(v) => emit('change', (b) => (b.unweighted = v))"
      /></template>
    </I18nT></template>
  </p>
  <div v-if="book.choice.which === 'picked'" class="picked">
    <v-autocomplete
      :model-value="book.choice.questions ?? []"
      :items="tabled.map((q) => ({ value: String(q.id), title: `${q.number} · ${q.wording || q.name}` }))"
      :label="t('tables.labels.picked')"
      multiple
      chips
      closable-chips
      density="compact"
      hide-details
      :menu="picking"
      data-test="picked"
      @update:menu="picking = $event"
      @update:model-value="pick"
    />
  </div>
</template>

<style scoped>
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 940px; margin-bottom: 6px; }
.picked { max-width: 940px; margin-bottom: 10px; }
</style>

<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import TableActs from '@/components/TableActs.vue'

import DocumentChart from './DocumentChart.vue'
import DocumentChoices from './DocumentChoices.vue'
import DocumentFacts from './DocumentFacts.vue'
import DocumentTable from './DocumentTable.vue'
import DocumentWorking from './DocumentWorking.vue'

import type { Block, Cell, Change, Document, NextAsk, Who } from '@/api/client'

/** A document, block by block. It knows kinds of blocks and no methods. A narrow table or
 * facts that a curve follows have it at their side. */
const props = defineProps<{
  document: Document
  working: boolean
  /** Only what is read first: its sentences and a few figures. */
  folded?: boolean
  pictures?: (place: number) => string
  tables?: (place: number) => string
}>()
const emit = defineEmits<{ change: [change: Change]; ask: [next: NextAsk]; these: [who: Who[]]; explain: [key: string] }>()
const { t } = useI18n()

/** The finding and the first figures of what was tested, the first sentence of what is only described. */
const first = computed<Block[]>(() => {
  const all = props.document.blocks
  const sentence = all.filter((b) => b.kind === 'sentence').slice(0, 1)
  if (!props.document.outcome) return sentence
  const end = all.findIndex((b) => b.kind === 'heading')
  const head = end < 0 ? all : all.slice(0, end)
  const facts = head.find((b) => b.kind === 'facts')
  const p = facts?.facts.find((f) => f.key === 'p')
  const few = facts && { ...facts, facts: [...facts.facts.filter((f) => f !== p).slice(0, p ? 2 : 3), ...(p ? [p] : [])] }
  return [...sentence, ...(few ? [few] : [])]
})
const line = computed(() => (props.folded ? first.value.find((b) => b.kind === 'facts') : undefined))
const pieces = computed(() => {
  const out: { block: Block; aside: Block | null }[] = []
  for (const block of props.folded ? first.value.filter((b) => b !== line.value) : props.document.blocks) {
    const last = out.findLast((p) => p.block.kind !== 'agreement')
    if (
      block.chart?.kind === 'curve' &&
      last?.aside === null &&
      (last.block.kind === 'facts' || (last.block.table && !last.block.table.strips))
    )
      last.aside = block
    else out.push({ block, aside: null })
  }
  return out
})
/** What the pressed cell of a table means; it takes the place of the table's own sentence. */
const said = shallowRef<{ table: Block | null; text: string }>({ table: null, text: '' })
/** Who they are whom the pressed cell counts. */
const who = shallowRef<Who[]>([])
watch(() => props.document, () => {
  said.value = { table: null, text: '' }
  who.value = []
})
function pressed(cell: Cell) {
  who.value = said.value.text ? cell.who : []
}
/** The table that a sentence stands over. */
const under = (block: Block) => props.document.blocks.slice(props.document.blocks.indexOf(block)).find((b) => b.table)
const spoken = (block: Block) =>
  said.value.text && block !== finding.value && under(block) === said.value.table ? said.value.text : block.lines.join(' ')

const charts = computed(() => props.document.blocks.filter((b) => b.chart))
const tabled = computed(() => props.document.blocks.filter((b) => b.table))
const tableOf = (block: Block) => props.tables?.(tabled.value.indexOf(block) + 1)
const pictureOf = (block: Block) => props.pictures?.(charts.value.indexOf(block) + 1)
/** The headings of a table as it leaves: each figure that is shown has a column of its own. */
const headsOf = (block: Block) =>
  block.table
    ? [
        block.table.stub,
        ...block.table.columns.flatMap((c) =>
          block.table!.shown.map((role, i) => (i === 0 ? c : `${c}, ${t(`leave.role.${role}`)}`)),
        ),
      ]
    : []
/** The first sentence is the finding where something was tested. */
const finding = computed(() => (props.document.outcome ? props.document.blocks.find((b) => b.kind === 'sentence') : undefined))
</script>

<template>
  <template
    v-for="({ block, aside }, i) in pieces"
    :key="i"
  >
    <p
      v-if="block.kind === 'basis' || block.kind === 'hypotheses' || block.kind === 'agreement'"
      class="soft small under"
      :data-test="block.kind"
    >
      {{ block.lines.join(' ') }}
    </p>
    <h3 v-else-if="block.kind === 'heading'" class="part">{{ block.lines.join(' ') }}</h3>
    <h3
      v-else-if="block.kind === 'sentence'"
      :class="{ reading: block !== finding, folded }"
      :aria-live="block === finding ? undefined : 'polite'"
      :data-test="block === finding ? 'finding' : 'reading'"
    >
      {{ spoken(block) }}
      <button
        v-if="who.length && block !== finding && said.text && under(block) === said.table"
        type="button"
        class="act small"
        data-test="these-alone"
        @click="emit('these', who)"
      >{{ t('topline.these_alone') }}</button>
    </h3>
    <DocumentChoices
      v-else-if="block.choices"
      :choices="block.choices"
      @change="emit('change', $event)"
      @ask="emit('ask', $event)"
    />
    <div
      v-else-if="block.table || block.kind === 'facts'"
      :class="{ two: aside }"
    >
      <div
        v-if="block.table"
        class="wide"
      >
        <DocumentTable
          :table="block.table"
          :said="said.table === block ? said.text : ''"
          @update:said="said = { table: block, text: $event }"
          @pressed="pressed"
        />
        <TableActs v-if="tables" :address="tableOf(block) ?? ''" :columns="headsOf(block)" />
      </div>
      <DocumentFacts
        v-else
        :facts="block.facts"
        @explain="emit('explain', $event)"
      />
      <DocumentChart
        v-if="aside?.chart"
        :chart="aside.chart"
        :picture="pictureOf(aside)"
      />
    </div>
    <DocumentChart v-else-if="block.chart" :chart="block.chart" :picture="pictureOf(block)" />
    <DocumentWorking v-else-if="block.kind === 'working' && working" :block="block" />
  </template>
  <div v-if="line" class="in-line"><DocumentFacts :facts="line.facts" line /></div>
</template>

<style scoped>
.wide { margin-bottom: 10px; }
.under { margin: 0 0 3px; }
h3 { font-size: 18px; font-weight: 600; line-height: 1.35; max-width: 760px; margin-bottom: 10px; }
h3.part { font: 600 15px 'Source Sans 3 Variable', sans-serif; margin: 18px 0 2px; }
h3.folded { font-size: 16px; line-height: 1.3; max-width: none; margin-bottom: 2px; }
.in-line { display: flex; flex-wrap: wrap; gap: 2px 22px; align-items: baseline; }
.reading { font-weight: 500; font-size: 17px; }
.reading.folded { font-size: 15.5px; }
.two { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 10px 28px; align-items: start; }
@media (max-width: 1180px) { .two { grid-template-columns: minmax(0, 1fr); } }
</style>

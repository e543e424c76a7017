<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { count, fixed } from '@/app/format'

import type { Question, SharesCheck } from '@/api/client'

import CellField from '@/components/CellField.vue'

/** One expected share per answer, in the answers' own rows; a block of figures can be
 * pasted downwards from a spreadsheet column. */
const figures = defineModel<Record<string, string>>({ required: true })
const props = defineProps<{ question: Question; check: SharesCheck | null; equal: boolean }>()
const emit = defineEmits<{ list: [text: string]; placed: [labels: string[], left: number]; last: [] }>()
const { t } = useI18n()

const shares = computed(() => new Map((props.check?.rows ?? []).map((r) => [r.code, r.share])))
const wrong = computed(
  () => new Set((props.check?.problems ?? []).filter((p) => p.code !== null && p.kind !== 'no_figure').map((p) => p.code)),
)

function set(code: string, figure: string) {
  figures.value = { ...figures.value, [code]: figure }
}

/** Enter in the last cell goes on behind the table; it states nothing. */
function enter(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey) return
  event.preventDefault()
  if (!step(event, 1)) emit('last')
}

function step(event: KeyboardEvent, by: 1 | -1) {
  const fields = [...((event.currentTarget as HTMLElement).closest('tbody')?.querySelectorAll('input') ?? [])]
  const next = fields[fields.indexOf(event.currentTarget as HTMLInputElement) + by]
  if (next) {
    event.preventDefault()
    next.focus()
    next.select()
  }
  return next !== undefined
}

const bare = /^[\d\s.,%/+−-]*$/

/** Answers with their shares are matched by name, as in the list. Bare figures say not
 * whose they are: they go in by place, from here downwards, and the form says so. */
function paste(event: ClipboardEvent, from: number) {
  const text = (event.clipboardData?.getData('text') ?? '').replace(/\r\n?/g, '\n').replace(/\n+$/, '')
  const lines = text.split('\n')
  if (lines.length < 2 && !text.includes('\t')) return
  event.preventDefault()
  if (text.includes('\t') || !lines.every((line) => bare.test(line))) {
    emit('list', text)
    return
  }
  const filled = { ...figures.value }
  const rows = props.question.rows.slice(from, from + lines.length)
  rows.forEach((row, i) => (filled[row.code] = (lines[i] ?? '').trim()))
  figures.value = filled
  emit('placed', rows.map((r) => r.label), lines.length - rows.length)
}
</script>

<template>
  <table class="figures shares">
    <thead>
      <tr>
        <th scope="col">{{ t('claim.answer') }}</th>
        <th scope="col">{{ t('claim.observed') }}</th>
        <th v-if="!equal" scope="col">{{ t('claim.share_in') }}</th>
        <th scope="col">{{ t('claim.as_share') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, i) in question.rows" :key="row.slot">
        <th scope="row">{{ row.label }}</th>
        <td>{{ count(row.count) }}</td>
        <td v-if="!equal">
          <CellField
            live
            inputmode="decimal"
            :value="figures[row.code] ?? ''"
            :label="`${row.label}: ${t('claim.share_in')}`"
            :aria-invalid="wrong.has(row.code)"
            maxlength="40"
            :data-test="`share-${row.label}`"
            @change="set(row.code, $event)"
            @keydown.down="step($event, 1)"
            @keydown.up="step($event, -1)"
            @keydown.enter="enter"
            @paste="paste($event, i)"
          />
        </td>
        <td class="soft">{{ typeof shares.get(row.code) === 'number' ? fixed(shares.get(row.code) ?? 0, 4) : '' }}</td>
      </tr>
    </tbody>
    <tfoot v-if="!equal">
      <tr>
        <th scope="row">{{ t('claim.sum') }}</th>
        <td>{{ count(question.answered) }}</td>
        <td data-test="sum">{{ check?.sum ?? '' }}</td>
        <td></td>
      </tr>
    </tfoot>
  </table>
</template>

<style scoped>
.shares {
  width: auto;
  min-width: min(470px, 100%);
  max-width: 100%;
}
.shares td,
.shares tbody th {
  vertical-align: baseline;
}
input {
  font: inherit;
  font-weight: 600;
  width: 96px;
  text-align: right;
  color: var(--teal);
  background: var(--tealwash);
  border: 0;
  border-bottom: 2px solid var(--teal);
  padding: 1px 6px;
}
input[aria-invalid='true'] {
  border-bottom: 3px double var(--rust);
}
</style>

<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'

import CellField from './CellField.vue'

import type { Grid } from '@/composables/useGrid'

/** Cells that are typed or pasted from any spreadsheet, names in the first row and column.
 * Headings may be fixed, and the names down may be those across. */
const props = defineProps<{
  grid: Grid
  list: boolean
  heads?: string[]
  mirrored?: boolean
  corner?: string
  uncounted?: number[]
  hint: string
  test: string
}>()
const { t } = useI18n()
const { cells, set, paste, addRow, dropRow, dropColumn, undo, redo, bad, rowTotals, columnTotals } = props.grid
const table = ref<HTMLTableElement | null>(null)
const isCounted = (column: number) => !(props.uncounted ?? []).includes(column)
const sums = computed(() => !props.list && cells.value[0]!.length > 2 && !props.heads)

const field = (row: number, column: number) => table.value?.querySelector<HTMLInputElement>(`[data-cell="${row}:${column}"]`)
async function go(row: number, column: number) {
  if (row >= cells.value.length && cells.value.length < 500) addRow()
  await nextTick()
  const to = field(Math.max(0, row), Math.max(0, column))
  to?.focus()
  to?.select()
}

function keyed(event: KeyboardEvent, row: number, column: number) {
  const input = event.target as HTMLInputElement
  const atStart = input.selectionStart === 0 && input.selectionEnd === 0
  const whole = input.selectionStart === 0 && input.selectionEnd === input.value.length
  const atEnd = input.selectionStart === input.value.length
  const move: Record<string, [number, number] | false> = {
    ArrowUp: [row - 1, column],
    ArrowDown: [row + 1, column],
    ArrowLeft: (atStart || whole) && [row, column - 1],
    ArrowRight: (atEnd || whole) && [row, column + 1],
    Enter: [row + 1, column],
  }
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
    event.preventDefault()
    set(row, column, input.value)
    if (event.shiftKey) redo()
    else undo()
    return
  }
  const to = move[event.key]
  if (!to || (event.key === 'ArrowDown' && row + 1 >= cells.value.length)) return
  event.preventDefault()
  set(row, column, input.value.trim()) // what was just typed stays, wherever the key leads
  void go(...to)
}

function pasted(event: ClipboardEvent, row: number, column: number) {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!/[\t\n]/.test(text.trim())) return // a single cell is pasted as text
  event.preventDefault()
  paste(row, column, text)
}

const across = (column: number) => props.heads?.[column] ?? cells.value[0]![column] ?? ''
const down = (row: number) => (props.mirrored ? (cells.value[0]![row] ?? '') : cells.value[row]![0]!)
const label = (row: number, column: number) => {
  if (row === 0 && column === 0) return t('grid.corner')
  if (row === 0) return t('grid.across', { n: column })
  if (column === 0) return t('grid.down', { n: row })
  return t('grid.count_of', { down: down(row) || row, across: across(column) || column })
}
</script>

<template>
  <div class="scroll">
    <table ref="table" :data-test="test">
      <thead>
        <tr>
          <th v-for="(c, k) in cells[0]" :key="k" scope="col" :class="{ corner: k === 0 }">
            <template v-if="heads">{{ heads[k] }}</template>
            <CellField
              v-else-if="!(mirrored && k === 0)"
              :value="c"
              :data-cell="`0:${k}`"
              :label="label(0, k)"
              :placeholder="k === 0 ? (corner ?? t('grid.corner_hint')) : list ? t('grid.count') : t('grid.across_hint')"
              @change="set(0, k, $event.trim())"
              @keydown="keyed($event, 0, k)"
              @paste="pasted($event, 0, k)"
            />
            <button
              v-if="k > 0 && !heads && !mirrored && cells[0]!.length > 2"
              type="button"
              class="drop"
              :aria-label="t('grid.drop_column', { n: k })"
              @click="dropColumn(k)"
            >×</button>
          </th>
          <th scope="col" class="total">{{ sums ? t('grid.total') : '' }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(r, i) in cells.slice(1)" :key="i">
          <template v-for="(c, k) in r" :key="k">
            <th v-if="k === 0" scope="row"><span v-if="mirrored" class="name">{{ down(i + 1) || i + 1 }}</span><CellField
              v-else
              :value="c"
              :data-cell="`${i + 1}:0`"
              :label="label(i + 1, 0)"
              :placeholder="hint"
              @change="set(i + 1, 0, $event.trim())"
              @keydown="keyed($event, i + 1, 0)"
              @paste="pasted($event, i + 1, 0)"
            /></th>
            <td v-else :class="{ bad: bad(i + 1, k) }"><CellField
              :value="c"
              :inputmode="isCounted(k) ? 'numeric' : 'text'"
              :data-cell="`${i + 1}:${k}`"
              :label="label(i + 1, k)"
              :aria-invalid="bad(i + 1, k)"
              @change="set(i + 1, k, $event.trim())"
              @keydown="keyed($event, i + 1, k)"
              @paste="pasted($event, i + 1, k)"
            /></td>
          </template>
          <td class="total"><template v-if="sums">{{ count(rowTotals[i + 1] ?? 0) }} </template><button
            v-if="cells.length > 2 && !mirrored"
            type="button"
            class="drop"
            :aria-label="t('grid.drop_row', { n: i + 1 })"
            @click="dropRow(i + 1)"
          >×</button></td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row">{{ t('grid.total') }}</th>
          <td v-for="k in cells[0]!.length - 1" :key="k">{{ isCounted(k) ? count(columnTotals[k] ?? 0) : '' }}</td>
          <td class="total">{{ sums ? count(rowTotals.slice(1).reduce((a, b) => a + b, 0)) : '' }}</td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
  margin: 8px 0 12px;
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 0;
  border-bottom: 1px solid var(--hair);
  position: relative;
  font-weight: 400;
  text-align: right;
}
thead th {
  border-bottom: 1px solid var(--rule);
}
input {
  width: 112px;
  font: inherit;
  color: var(--ink);
  background: var(--tealwash);
  border: 1px solid var(--paper);
  padding: 4px 8px;
  text-align: right;
}
thead input,
tbody th input {
  background: transparent;
  border-bottom-color: var(--rule);
}
.corner input,
tbody th input {
  width: 170px;
  text-align: left;
}
input::placeholder {
  color: var(--soft);
  opacity: 1;
}
.bad input {
  box-shadow: inset 0 -3px 0 var(--rust);
}
.total,
tfoot td,
tfoot th {
  padding: 4px 10px;
  color: var(--soft);
  white-space: nowrap;
}
tfoot th {
  text-align: left;
}
.drop { min-width: 24px; min-height: 24px;
  border: 0;
  background: none;
  color: var(--soft);
  cursor: pointer;
  font: inherit;
  padding: 0 3px;
}
.name {
  display: block;
  padding: 5px 8px;
  text-align: left;
}
thead th.corner {
  text-align: left;
}
thead th {
  font-size: 14.5px;
  color: var(--soft);
  padding: 0 8px 2px;
  vertical-align: bottom;
}
</style>

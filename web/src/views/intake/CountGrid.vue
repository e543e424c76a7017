<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'

import { useGrid } from './useGrid'

import type { Settings } from '@/api/client'

import CellField from '@/components/CellField.vue'

/** Counts typed by hand: names in the first row and column; with one column of counts
 * it is a list, with more a grid of two questions. */
const props = defineProps<{ form: 'list' | 'crossing' }>()
const emit = defineEmits<{ read: [text: string, change: Partial<Settings>]; other: [] }>()
const { t } = useI18n()
const { cells, set, paste, addRow, addColumn, dropRow, dropColumn, undo, redo, bad, rowTotals, columnTotals, canUndo } = useGrid(props.form)
const table = ref<HTMLTableElement | null>(null)

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

const label = (row: number, column: number) => {
  if (row === 0 && column === 0) return t('grid.corner')
  if (row === 0) return t('grid.across', { n: column })
  if (column === 0) return t('grid.down', { n: row })
  return t('grid.count_of', { down: cells.value[row]![0] || row, across: cells.value[0]![column] || column })
}
const isList = computed(() => props.form === 'list' && cells.value[0]!.length === 2)
const anyBad = computed(() => cells.value.some((r, i) => r.some((_, k) => bad(i, k))))
const ready = computed(() => cells.value.slice(1).some((r) => r.slice(1).some((c) => c !== '')) && !anyBad.value)

function read() {
  if (!ready.value) return
  const kept = cells.value.filter((r, i) => i === 0 || r.some((c) => c !== ''))
  const rows = kept.map((r) => [...r])
  if (isList.value) {
    rows[0] = [rows[0]![0] || t('grid.answer'), rows[0]![1] || t('grid.count')]
    emit('read', text(rows), { shape: 'counts', countColumn: rows[0][1]!, headerRow: 1, delimiter: '\t' })
  } else {
    emit('read', text(rows), { shape: 'grid', headerRow: 1, delimiter: '\t' })
  }
}
const quoted = (c: string) => (/["\t\n]/.test(c) ? `"${c.replace(/"/g, '""')}"` : c)
const text = (rows: string[][]) => rows.map((r) => r.map(quoted).join('\t')).join('\n') + '\n'
</script>

<template>
  <form class="grid" @submit.prevent="read">
    <p class="soft small">
      {{ t(form === 'list' ? 'grid.hint_list' : 'grid.hint_crossing') }}
      <button
        v-if="form === 'crossing' || cells[0]!.length === 2"
        type="button"
        class="act"
        @click="$emit('other')"
      >{{ t(form === 'list' ? 'grid.to_crossing' : 'grid.to_list') }}</button>
    </p>
    <div class="scroll">
      <table ref="table" data-test="count-grid">
        <thead>
          <tr>
            <th v-for="(c, k) in cells[0]" :key="k" scope="col" :class="{ corner: k === 0 }">
              <CellField
                :value="c"
                :data-cell="`0:${k}`"
                :label="label(0, k)"
                :placeholder="k === 0 ? t('grid.corner_hint') : isList ? t('grid.count') : t('grid.across_hint')"
                @change="set(0, k, $event.trim())"
                @keydown="keyed($event, 0, k)"
                @paste="pasted($event, 0, k)"
              />
              <button
                v-if="k > 0 && cells[0]!.length > 2"
                type="button"
                class="drop"
                :aria-label="t('grid.drop_column', { n: k })"
                @click="dropColumn(k)"
              >×</button>
            </th>
            <th scope="col" class="total">{{ isList ? '' : t('grid.total') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in cells.slice(1)" :key="i">
            <template v-for="(c, k) in r" :key="k">
              <th v-if="k === 0" scope="row"><CellField
                :value="c"
                :data-cell="`${i + 1}:0`"
                :label="label(i + 1, 0)"
                :placeholder="t('grid.down_hint')"
                @change="set(i + 1, 0, $event.trim())"
                @keydown="keyed($event, i + 1, 0)"
                @paste="pasted($event, i + 1, 0)"
              /></th>
              <td v-else :class="{ bad: bad(i + 1, k) }"><CellField
                :value="c"
                inputmode="numeric"
                :data-cell="`${i + 1}:${k}`"
                :label="label(i + 1, k)"
                :aria-invalid="bad(i + 1, k)"
                @change="set(i + 1, k, $event.trim())"
                @keydown="keyed($event, i + 1, k)"
                @paste="pasted($event, i + 1, k)"
              /></td>
            </template>
            <td class="total"><template v-if="!isList">{{ count(rowTotals[i + 1] ?? 0) }} </template><button
              v-if="cells.length > 2"
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
            <td v-for="k in cells[0]!.length - 1" :key="k">{{ count(columnTotals[k] ?? 0) }}</td>
            <td v-if="!isList" class="total">{{ count(rowTotals.slice(1).reduce((a, b) => a + b, 0)) }}</td>
          </tr>
        </tfoot>
      </table>
    </div>
    <p v-if="anyBad" class="soft" role="status">{{ t('grid.bad') }}</p>
    <p class="acts">
      <v-btn type="submit" variant="flat" color="primary" :disabled="!ready" data-test="grid-read">{{ t('intake.paste_read') }}</v-btn>
      <button type="button" class="act" @click="addRow">{{ t('grid.add_row') }}</button>
      <button v-if="form === 'crossing'" type="button" class="act" @click="addColumn">{{ t('grid.add_column') }}</button>
      <button type="button" class="act" :disabled="!canUndo" @click="undo">{{ t('app.undo') }}</button>
    </p>
  </form>
</template>

<style scoped>
.grid {
  margin-top: 20px;
}
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
.drop {
  border: 0;
  background: none;
  color: var(--soft);
  cursor: pointer;
  font: inherit;
  padding: 0 3px;
}
.acts {
  align-items: center;
}
</style>

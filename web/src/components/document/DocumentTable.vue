<script setup lang="ts">
import { computed } from 'vue'

import ShareStrip from '@/charts/ShareStrip.vue'

import CellFigure from './CellFigure.vue'

import type { Cell, FigureRole, Table } from '@/api/client'

/** A table of figures. The figure that is read stands first in its cell, what is shown
 * beside it below. A cell that stands out bears a stroke over it for more than expected,
 * under it for fewer. */
const props = defineProps<{ table: Table }>()
/** The sentence of the cell that is pressed; "" for none. */
const said = defineModel<string>('said', { default: '' })
const emit = defineEmits<{ pressed: [cell: Cell] }>()

/** From how many characters on the head of a column is long; where there are many columns it may be cut then. */
const longName = 40
const main = computed(() => props.table.shown[0] ?? 'main')
const others = computed(() => props.table.shown.slice(1))
const text = (cell: Cell, role: FigureRole) => cell.figures.find((f) => f.role === role)?.text ?? ''
const rows = computed(() => props.table.rows.filter((r) => !r.total))
const totals = computed(() => props.table.rows.filter((r) => r.total))
</script>

<template>
  <table class="figures">
    <caption class="visually-hidden">{{ table.caption }}</caption>
    <thead>
      <tr v-for="(line, i) in table.over" :key="i" class="over">
        <td />
        <template v-for="(s, k) in line" :key="k">
          <th v-if="s.text" scope="colgroup" :colspan="s.columns"><span class="name">{{ s.text }}</span></th>
          <td v-else :colspan="s.columns" />
        </template>
      </tr>
      <tr>
        <th scope="col">{{ table.stub }}</th>
        <th v-if="table.strips" scope="col" class="left strips">{{ table.strips }}</th>
        <th v-for="(c, i) in table.columns" :key="i" scope="col" :class="{ long: c.length > longName }">
          <span class="name" :title="c.length > longName ? c : undefined">{{ c }}</span>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, i) in rows" :key="i" :class="{ out: row.faint, head: row.head }">
        <th v-if="row.head" scope="rowgroup" :colspan="table.columns.length + 1 + (table.strips ? 1 : 0)">{{ row.name }}</th>
        <template v-else>
        <th scope="row">{{ row.name }}</th>
        <td v-if="table.strips" class="strips"><ShareStrip :parts="row.strip" /></td>
        <td v-for="(cell, k) in row.cells" :key="k" :class="{ out: cell.faint }">
          <CellFigure v-model="said" :cell="cell" :text="text(cell, main)" @click="emit('pressed', cell)" />
          <span v-for="role in others" :key="role" class="beside-figure">{{ text(cell, role) }}</span>
        </td>
        </template>
      </tr>
    </tbody>
    <tfoot v-if="totals.length">
      <tr v-for="(row, i) in totals" :key="i" :class="{ out: row.faint }">
        <th scope="row">{{ row.name }}</th>
        <td v-if="table.strips" class="strips"><ShareStrip :parts="row.strip" /></td>
        <td v-for="(cell, k) in row.cells" :key="k" :class="{ out: cell.faint }">
          <CellFigure v-model="said" :cell="cell" :text="text(cell, main)" @click="emit('pressed', cell)" />
          <span v-for="role in others" :key="role" class="beside-figure">{{ text(cell, role) }}</span>
        </td>
      </tr>
    </tfoot>
  </table>
</template>

<style scoped>
.out { color: var(--soft); }
.beside-figure { display: block; font-size: 13px; line-height: 1.25; font-weight: 400; color: var(--soft); }
.head th { font-weight: 600; padding-top: 12px; max-width: none; border-bottom: 1px solid var(--rule); }
.out th, tfoot .out, tfoot .out td { font-weight: 400; color: var(--soft); }
td { white-space: nowrap; }
thead th { max-width: 180px; overflow-wrap: break-word; }
tbody th { min-width: 92px; max-width: 220px; }
.over th { text-align: center; max-width: none; border-bottom: 1px solid var(--rule); font-weight: 600; padding: 2px 8px; }
.over td { border: 0; }
.strips { width: 30%; min-width: 150px; text-align: left; }
@media (max-width: 640px) { .strips { display: none; } }
</style>

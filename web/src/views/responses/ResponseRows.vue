<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'
import CellField from '@/components/CellField.vue'

import type { CodebookQuestion, Responses } from '@/api/client'

/** The rows that are in sight, with the room of those above and below them. */
defineProps<{
  questions: CodebookQuestion[]
  rows: number[]
  line: (i: number) => Responses['lines'][number] | undefined
  total: number
  above: number
  below: number
  editing: { row: number; at: number; text: string } | null
}>()
defineEmits<{ edit: [row: number, at: number, cell: string]; typed: [text: string]; save: []; cancel: [] }>()
const { t } = useI18n()
</script>

<template>
  <table :aria-rowcount="total + 1">
    <thead>
      <tr><th scope="col">№</th><th v-for="q in questions" :key="q.id" scope="col" :title="q.wording">{{ q.name }}</th></tr>
    </thead>
    <tbody>
      <tr v-if="above > 0" aria-hidden="true"><td :style="{ height: `${above}px` }" /></tr>
      <tr v-for="i in rows" :key="i" :aria-rowindex="i + 2">
        <template v-if="line(i)">
          <th scope="row">{{ count(line(i)!.number) }}</th>
          <td
            v-for="(cell, k) in line(i)!.cells"
            :key="k"
            :class="{ missing: line(i)!.missing[k] }"
            @dblclick="$emit('edit', line(i)!.number, k, cell)"
          >
            <CellField
              v-if="editing && editing.row === line(i)!.number && editing.at === k"
              live
              :value="editing.text"
              class="cell-edit"
              :label="t('responses.correct', { row: line(i)!.number, name: questions[k]?.name ?? '' })"
              maxlength="1000"
              @change="$emit('typed', $event)"
              @keydown.enter.prevent="$emit('save')"
              @keydown.esc="$emit('cancel')"
            />
            <button
              v-else
              type="button"
              class="cell"
              :disabled="questions[k]?.derivation !== null"
              :title="cell"
              @click="$emit('edit', line(i)!.number, k, cell)"
            >{{ cell || '·' }}</button>
          </td>
        </template>
        <td v-else :colspan="questions.length + 1">…</td>
      </tr>
      <tr v-if="below > 0" aria-hidden="true"><td :style="{ height: `${below}px` }" /></tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  border-collapse: collapse;
  font-size: 14px;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 1;
  text-align: left;
  font-weight: 600;
  white-space: nowrap;
  border-bottom: 1px solid var(--rule);
  padding: 4px 14px 4px 0;
}
tbody th {
  font-weight: 400;
  color: var(--soft);
  text-align: right;
  padding-right: 14px;
}
tbody tr {
  height: 30px;
}
td {
  border-bottom: 1px solid var(--hair);
  padding: 0 14px 0 0;
  height: 30px;
}
.cell {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 2px 0;
  text-align: left;
  cursor: text;
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  display: block;
}
.cell:disabled {
  cursor: default;
  color: inherit;
}
.cell:not(:disabled):hover {
  text-decoration: underline;
}
.missing {
  color: var(--soft);
  font-style: italic;
}
.cell-edit {
  font: inherit;
  color: var(--ink);
  padding: 2px;
  border: 0;
  background: var(--tealwash);
  border-bottom: 2px solid var(--teal);
  width: 160px;
}
</style>

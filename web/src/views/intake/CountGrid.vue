<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import CountCells from '@/components/CountCells.vue'
import { useGrid } from '@/composables/useGrid'

import { typed } from './typed'

import type { Settings } from '@/api/client'

/** Counts typed by hand: names in the first row and column; with one column of counts
 * it is a list, with more a grid of two questions. */
const props = defineProps<{ form: 'list' | 'crossing' }>()
const emit = defineEmits<{ read: [text: string, change: Partial<Settings>]; other: [] }>()
const { t } = useI18n()
const grid = useGrid(typed.cells, props.form === 'list' ? 2 : 3)
const { cells, addRow, addColumn, undo, bad, canUndo } = grid

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
    <CountCells :grid="grid" :list="isList" :hint="t('grid.down_hint')" test="count-grid" />
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
.grid { margin-top: 20px; }
.acts { align-items: center; }
</style>

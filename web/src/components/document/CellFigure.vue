<script setup lang="ts">
import { computed } from 'vue'

import { useIsReading } from '@/components/reading'

import type { Cell } from '@/api/client'

/** The figure of a cell that is read, with its stroke where it stands out. Where the cell
 * has a sentence, pressing the figure tells it and pressing it again is done with it. */
const said = defineModel<string>({ required: true })
const props = defineProps<{ cell: Cell; text: string }>()
const reading = useIsReading()
const shown = computed(() => (props.cell.few && props.text ? `[${props.text}]` : props.text))
const above = computed(() => props.cell.figures.find((f) => f.role === 'above')?.text ?? '')
const pressable = computed(() => props.cell.said !== '' && !reading.value)
</script>

<template>
  <component
    :is="pressable ? 'button' : 'span'"
    :type="pressable ? 'button' : undefined"
    class="figure"
    :class="[cell.mark, { on: cell.said && cell.said === said }]"
    :aria-pressed="pressable ? cell.said === said : undefined"
    @click="pressable && (said = said === cell.said ? '' : cell.said)"
  >{{ shown }}<span v-if="above" class="above">{{ above }}</span><span v-if="cell.mark" class="visually-hidden">, {{ cell.markText }}</span></component>
</template>

<style scoped>
.figure { font: inherit; color: inherit; background: none; border: 0; padding: 0 1px; font-variant-numeric: inherit; }
button { cursor: pointer; }
button:hover { text-decoration: underline dotted; text-underline-offset: 3px; }
.on { background: var(--tealwash); box-shadow: 0 0 0 3px var(--tealwash); }
.above { font-size: 12.5px; font-weight: 650; letter-spacing: 0.04em; margin-left: 4px; color: var(--rust); }
.more, .fewer { font-weight: 650; display: inline-block; }
.more { color: var(--rust); border-top: 3px solid var(--rust); }
.fewer { color: var(--steel); border-bottom: 3px solid var(--steel); }
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Answer, Derivation } from '@/api/client'

type Group = NonNullable<Derivation['groups']>[number]

/** Answers are merged by dragging one onto another, or by choosing some and pressing M. */
const groups = defineModel<Group[]>({ required: true })
const props = defineProps<{ answers: Answer[] }>()
const { t } = useI18n()
const picked = ref<number[]>([])
const dragged = ref<number | null>(null)

const label = (slot: number) => props.answers.find((a) => a.slot === slot)?.label ?? ''
const groupOf = (slot: number) => groups.value.findIndex((g) => g.answers.includes(slot))
const lines = computed(() => {
  const seen = new Set<number>()
  return props.answers.flatMap((a) => {
    const at = groupOf(a.slot)
    if (at < 0) return [{ key: `a${a.slot}`, at: -1, slot: a.slot, title: a.label }]
    if (seen.has(at)) return []
    seen.add(at)
    return [{ key: `g${at}`, at, slot: a.slot, title: groups.value[at]!.label }]
  })
})

/** Merges these answers, and with them the groups that they stand in. */
function merge(slots: number[]) {
  const all = [...new Set(slots.flatMap((s) => groups.value[groupOf(s)]?.answers ?? [s]))]
  if (all.length < 2) return
  const kept = groups.value.filter((g) => !g.answers.some((s) => all.includes(s)))
  const named = groups.value.find((g) => g.answers.some((s) => all.includes(s)))
  const inOrder = props.answers.filter((a) => all.includes(a.slot)).map((a) => a.slot)
  groups.value = [...kept, { label: named && named.answers.length > 2 ? named.label : inOrder.map(label).join(' / '), answers: inOrder }]
  picked.value = []
}
const split = (at: number) => (groups.value = groups.value.filter((_, i) => i !== at))
const rename = (at: number, name: string) =>
  (groups.value = groups.value.map((g, i) => (i === at && name.trim() !== '' ? { ...g, label: name.trim() } : g)))

function dropped(slot: number) {
  if (dragged.value !== null && dragged.value !== slot) merge([slot, dragged.value])
  dragged.value = null
}
function keyed(event: KeyboardEvent) {
  const target = event.target as HTMLInputElement
  if (event.key.toLowerCase() !== 'm' || (target.tagName === 'INPUT' && target.type !== 'checkbox')) return
  event.preventDefault()
  merge(picked.value)
}
</script>

<template>
  <fieldset class="board" data-test="merge-board" @keydown="keyed">
    <legend class="soft small">{{ t('derive.merge_hint') }}</legend>
    <ul>
      <li
        v-for="l in lines"
        :key="l.key"
        draggable="true"
        :class="{ group: l.at >= 0 }"
        :data-answer="l.title"
        @dragstart="dragged = l.slot"
        @dragend="dragged = null"
        @dragover.prevent
        @drop.prevent="dropped(l.slot)"
      >
        <v-checkbox-btn v-model="picked" inline :value="l.slot" :label="l.at < 0 ? l.title : undefined" :aria-label="l.title" />
        <template v-if="l.at >= 0">
          <v-text-field
            class="name"
            :model-value="l.title"
            :aria-label="t('derive.group_name')"
            maxlength="300"
            @change="rename(l.at, ($event.target as HTMLInputElement).value)"
          />
          <span class="soft small">{{ groups[l.at]!.answers.map(label).join(', ') }}</span>
          <button type="button" class="act" @click="split(l.at)">{{ t('derive.split') }}</button>
        </template>
      </li>
    </ul>
    <button
      type="button"
      class="act"
      :disabled="picked.length < 2"
      data-test="merge"
      @click="merge(picked)"
    >{{ t('derive.merge') }}</button>
  </fieldset>
</template>

<style scoped>
.board { border: 0; padding: 0; margin: 6px 0 12px; }
ul { list-style: none; padding: 0; margin: 6px 0; max-width: 620px; }
li { border-bottom: 1px solid var(--hair); padding: 3px 6px; cursor: grab; display: flex; gap: 10px; align-items: center; }
li .act { white-space: nowrap; margin-left: auto; }
.group { background: var(--tealwash); }
.name { flex: 0 1 300px; }
</style>

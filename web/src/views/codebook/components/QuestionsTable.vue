<script setup lang="ts">
import { ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'

import InlineText from '@/components/InlineText.vue'
import { useWindow } from '@/composables/useWindow'

import type { AnswerList, CodebookQuestion } from '@/api/client'

/** Every question, in one table that holds thousands; rows are chosen for bulk edits. */
const chosen = defineModel<Set<number>>({ required: true })
const props = defineProps<{ questions: CodebookQuestion[]; lists: AnswerList[]; opened: number | null }>()
const emit = defineEmits<{ open: [id: number | null]; wording: [q: CodebookQuestion, wording: string] }>()
const { t } = useI18n()
const rowHeight = 34
const scroller = useTemplateRef<HTMLElement>('scroller')
const { scrolled, first, last, above, below } = useWindow(scroller, () => props.questions.length, rowHeight)
const anchor = ref(-1)
let held = false // Shift, with the press

/** A press chooses one; with Shift everything from the last one pressed. */
function toggle(i: number) {
  const next = new Set(chosen.value)
  const on = !next.has(props.questions[i]!.id)
  const from = held && anchor.value >= 0 ? anchor.value : i
  for (let k = Math.min(from, i); k <= Math.max(from, i); k++) {
    const id = props.questions[k]!.id
    if (on) next.add(id)
    else next.delete(id)
  }
  anchor.value = i
  chosen.value = next
}
const all = () => (chosen.value = chosen.value.size === props.questions.length ? new Set() : new Set(props.questions.map((q) => q.id)))

const summary = (q: CodebookQuestion) => {
  const list = props.lists.find((l) => l.id === q.listId)
  const proper = q.answers.filter((a) => a.missing === '' && a.sameAs === null)
  return (list ? `${list.name}: ` : '') + proper.slice(0, 6).map((a) => a.label).join(' · ') + (proper.length > 6 ? ' …' : '')
}
</script>

<template>
  <div ref="scroller" class="window" @scroll.passive="scrolled">
    <table class="book" :aria-rowcount="questions.length + 1" data-test="codebook-table">
      <thead>
        <tr>
          <th scope="col"><v-checkbox-btn
            inline
            :model-value="chosen.size > 0 && chosen.size === questions.length"
            :indeterminate="chosen.size > 0 && chosen.size < questions.length"
            :aria-label="t('codebook.choose_all')"
            @update:model-value="all"
          /></th>
          <th scope="col">№</th>
          <th scope="col">{{ t('codebook.name') }}</th>
          <th scope="col">{{ t('codebook.wording') }}</th>
          <template v-if="opened === null">
            <th scope="col">{{ t('codebook.kind') }}</th>
            <th scope="col">{{ t('codebook.section') }}</th>
            <th scope="col">{{ t('codebook.answers') }}</th>
          </template>
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true"><td :style="{ height: `${above}px` }" /></tr>
        <tr
          v-for="(q, k) in questions.slice(first, last)"
          :key="q.id"
          :aria-rowindex="first + k + 2"
          :class="{ on: opened === q.id }"
        >
          <td><v-checkbox-btn
            inline
            :model-value="chosen.has(q.id)"
            :aria-label="t('codebook.choose', { name: q.name })"
            :data-test="`choose-${q.name}`"
            @click.capture="held = $event.shiftKey"
            @update:model-value="toggle(first + k)"
          /></td>
          <td class="soft">{{ q.number }}</td>
          <th scope="row"><button
            type="button"
            class="act name"
            :aria-expanded="opened === q.id"
            @click="emit('open', opened === q.id ? null : q.id)"
          >{{ q.name }}</button></th>
          <td class="wide"><InlineText
            :text="q.wording"
            :label="t('topline.edit_wording')"
            :maxlength="1000"
            @save="emit('wording', q, $event)"
          /></td>
          <template v-if="opened === null">
            <td>{{ t(`topline.kinds.${q.kind}`) }}<span v-if="q.derivation" class="soft"> ({{ t('codebook.derived') }})</span></td>
            <td class="soft">{{ q.section }}</td>
            <td class="soft wide">{{ summary(q) }}</td>
          </template>
        </tr>
        <tr v-if="below > 0" aria-hidden="true"><td :style="{ height: `${below}px` }" /></tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.window {
  position: relative;
  height: calc(100vh - 176px);
  min-height: 260px;
  overflow: auto;
  border-top: 1px solid var(--rule);
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14.5px;
  table-layout: auto;
}
thead th {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--paper);
  text-align: left;
  font-weight: 400;
  font-size: 13.5px;
  color: var(--soft);
  border-bottom: 1px solid var(--rule);
  padding: 5px 12px 4px 0;
}
tbody tr {
  height: 34px;
}
tbody td,
tbody th {
  border-bottom: 1px solid var(--hair);
  padding: 0 12px 0 0;
  text-align: left;
  font-weight: 400;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 170px;
}
.wide {
  max-width: 270px;
}
.window :deep(.v-selection-control) {
  --v-selection-control-size: 22px;
  min-height: 22px;
  vertical-align: middle;
}
.on {
  background: var(--tealwash);
}
.name {
  padding: 0;
}
.wide :deep(.text) {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 100%;
  display: block;
}
</style>

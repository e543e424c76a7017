<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import InlineText from '@/components/InlineText.vue'
import { isLooking } from '@/app/who'
import { useIsReading } from '@/components/reading'
import UndoSteps from '@/components/UndoSteps.vue'

import { orders } from '../composables/useView'

import type { StudyEdit, Topline } from '@/api/client'
import type { View } from '../composables/useView'

/** What the whole page is about and how it is shown: the study, whom it counts, and the looks. */
const props = defineProps<{
  page: Topline
  /** Whom the page is about; null when a damaged column keeps anybody from telling. */
  rows: number | null
  view: View
}>()
defineEmits<{
  set: [change: Record<string, string | undefined>]
  edit: [change: StudyEdit]
  undo: [which: 'undo' | 'redo', edit: number]
  read: []
}>()
const listed = defineModel<boolean>('listed', { required: true })
const { t } = useI18n()
const reading = useIsReading()
const among = computed(() => [
  { value: 0, title: t('topline.everyone') },
  ...(props.page.subgroups).map((g) => ({ value: g.id, title: g.n === null ? g.name : `${g.name} (${count(g.n)})` })),
])
</script>

<template>
  <h1><InlineText
    :text="page.study.name"
    :label="t('topline.rename_study')"
    :maxlength="120"
    @save="$emit('edit', { name: $event })"
  /></h1>
  <div class="context">
    <b>{{ rows === null ? '?' : count(rows) }}</b> <InlineText
      :text="page.study.units"
      :label="t('topline.units_edit')"
      :maxlength="40"
      @save="$emit('edit', { units: $event })"
    />
    <template v-if="reading && page.subgroups.length"> · {{ among.find((g) => g.value === (view.of ?? 0))?.title }}</template>
    <template v-else-if="page.subgroups.length"> · <ChoiceMenu
      class="of"
      :model-value="view.of ?? 0"
      :items="among"
      :label="t('topline.of')"
      test="of"
      @update:model-value="$emit('set', { of: $event ? String($event) : undefined })"
    /></template>
    <template v-if="page.study.countQuestion !== null"> · <RouterLink
      :to="`/studies/${page.study.id}/check`"
      class="force"
      data-test="counts-in-force"
    >{{ t('topline.counts_short') }}</RouterLink></template>
    <button
      v-if="reading && !isLooking"
      type="button"
      class="leave-reading"
      data-test="leave-reading"
      @click="$emit('read')"
    >{{ t('topline.leave_reading') }} <kbd aria-hidden="true">R</kbd></button>
    <span v-else-if="!reading" class="choosing"> ·
      <button
        type="button"
        class="act"
        :aria-expanded="listed"
        data-test="list-open"
        @click="listed = !listed"
      >{{ t('topline.list_open') }}</button> ·
      <button
        type="button"
        class="act"
        :aria-pressed="view.codes"
        @click="$emit('set', { codes: view.codes ? undefined : '1' })"
      >{{ view.codes ? t('topline.codes') : t('topline.labels') }}</button> ·
      <button
        type="button"
        class="act"
        data-test="decimals"
        @click="$emit('edit', { decimals: (page.study.decimals + 1) % 7 })"
      >
        {{ t('topline.decimals', page.study.decimals) }}
      </button> ·
      <button
        type="button"
        class="act"
        :aria-pressed="view.proportions"
        data-test="proportions"
        :aria-label="t(`topline.${view.proportions ? 'as_proportions' : 'as_percents'}`)"
        :title="t(`topline.${view.proportions ? 'as_proportions' : 'as_percents'}`)"
        @click="$emit('set', { as: view.proportions ? undefined : 'proportions' })"
      >{{ view.proportions ? t('topline.proportions') : t('topline.percents') }}</button> ·
      <button
        type="button"
        class="act"
        :aria-pressed="view.cumulative"
        data-test="cumulative"
        @click="$emit('set', { cumulative: view.cumulative ? undefined : '1' })"
      >{{ t('topline.cumulative') }}</button> ·
      <ChoiceMenu
        small
        :model-value="view.order"
        :items="orders.map((value) => ({ value, title: t(`topline.order.${value}`) }))"
        :label="t('topline.order_label')"
        test="order"
        @update:model-value="$emit('set', { order: $event === 'asked' ? undefined : $event })"
      /> ·
      <button
        type="button"
        class="act"
        data-test="read"
        @click="$emit('read')"
      >{{ t('topline.read') }}</button> ·{{ ' ' }}
      <RouterLink :to="`/studies/${page.study.id}/check`">{{ t('places.check') }}</RouterLink> <UndoSteps
        :undo="page.undo"
        :redo="page.redo"
        @step="(which, edit) => $emit('undo', which, edit)"
      />
    </span>
  </div>
</template>

<style scoped>
b { color: var(--ink); font-weight: 600; }
.act { font-weight: 400; color: var(--soft); }
.act:hover { color: var(--teal); }
.context :deep(.of) { font-size: 14.5px; padding: 0 5px; }
.force { font-weight: 600; }
.leave-reading { font: inherit; font-size: 13.5px; color: var(--soft); background: none; border: 0; padding: 3px 0 3px 14px; cursor: pointer; }
.leave-reading:hover { color: var(--teal); }
@media print { .choosing, .leave-reading { display: none; } }
</style>

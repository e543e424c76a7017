<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'

import { orders } from '../composables/useView'

import type { Question } from '@/api/client'
import type { View } from '../composables/useView'

/** Which columns the tally of one question has, and in which order its answers stand; the
 * page has its own choice for all. */
const props = defineProps<{ question: Question; view: View }>()
const emit = defineEmits<{ view: [change: Partial<View>] }>()
const { t } = useI18n()
</script>

<template>
  <span class="columns">
    <ChoiceMenu
      v-if="!props.question.ranked"
      small
      :model-value="view.order"
      :items="orders.map((value) => ({ value, title: t(`topline.order.${value}`) }))"
      :label="t('topline.order_label')"
      test="own-order"
      @update:model-value="emit('view', { order: $event })"
    />
    <button
      v-else
      type="button"
      class="act"
      :aria-pressed="view.cumulative"
      data-test="own-cumulative"
      @click="emit('view', { cumulative: !view.cumulative })"
    >{{ t('topline.cumulative') }}</button>
    <button
      type="button"
      class="act"
      :aria-pressed="view.proportions"
      data-test="own-proportions"
      @click="emit('view', { proportions: !view.proportions })"
    >{{ view.proportions ? t('topline.proportions') : t('topline.percents') }}</button>
  </span>
</template>

<style scoped>
.columns { display: inline-flex; gap: 0 12px; font-size: 13.5px; }
.act { font-weight: 400; min-width: 24px; }
.act[aria-pressed='true'] { font-weight: 650; color: var(--ink); }
</style>

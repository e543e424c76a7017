<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'

import type { BookBattery, BookQuestion } from '@/api/client'

/** Questions with the same answers in one table, a row each. */
const props = defineProps<{ questions: BookQuestion[]; taken: Set<string> }>()
const emit = defineEmits<{ keep: [battery: BookBattery]; leave: [] }>()
const { t } = useI18n()
const keys = ref<string[]>([])
const label = ref('')
const shows = ref<BookBattery['shows']>('last')
const boxes = ref(1)
const codesOf = (q: BookQuestion) => q.answers.map((a) => a.code).sort().join('\u0000')
const first = computed(() => props.questions.find((q) => String(q.id) === keys.value[0]))
const fits = computed(() => props.questions.filter((q) => q.inner && q.kind !== 'choose_all' && q.answers.length > 1
  && !props.taken.has(String(q.id))
  && (!first.value || codesOf(q) === codesOf(first.value))))
const ways = computed(() => (['last', 'first', 'mean'] as const).filter((s) => s !== 'mean' || !first.value || first.value.scored)
  .map((value) => ({ value, title: t(`tables.battery.${value}`) })))
const most = computed(() => Math.max(1, (first.value?.answers.length ?? 2) - 1))
const counts = computed(() => Array.from({ length: most.value }, (_, i) => ({ value: i + 1, title: String(i + 1) })))
const ready = computed(() => keys.value.length > 1)
const keep = () =>
  emit('keep', { label: label.value.trim(), questions: keys.value, shows: shows.value, boxes: shows.value === 'mean' ? 0 : boxes.value })
</script>

<template>
  <form class="battery" data-test="battery-form" @submit.prevent="ready && keep()">
    <v-autocomplete
      v-model="keys"
      :items="fits.map((q) => ({ value: String(q.id), title: `${q.number} · ${q.wording || q.name}` }))"
      :label="t('tables.battery.questions')"
      multiple
      chips
      closable-chips
      density="compact"
      hide-details
      data-test="battery-questions"
    />
    <v-text-field
      v-model="label"
      :label="t('tables.battery.label')"
      maxlength="120"
      density="compact"
      hide-details
      data-test="battery-label"
    />
    <p class="acts">
      <ChoiceMenu v-model="shows" :items="ways" :label="t('tables.battery.shows')" test="battery-shows" />
      <template v-if="shows !== 'mean'"><ChoiceMenu
        v-model="boxes"
        :items="counts"
        :label="t('tables.battery.boxes')"
        test="battery-boxes"
      /> {{ t('tables.battery.together', boxes) }}</template>
    </p>
    <p class="acts">
      <v-btn type="submit" variant="flat" color="primary" :disabled="!ready" data-test="battery-keep">{{ t('codebook.apply') }}</v-btn>
      <button type="button" class="act" @click="emit('leave')">{{ t('app.cancel') }}</button>
    </p>
  </form>
</template>

<style scoped>
.battery { display: grid; gap: 8px; border-left: 3px solid var(--teal); padding: 6px 0 6px 14px; max-width: 940px; margin-bottom: 12px; }
</style>

<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Method, Question } from '@/api/client'

/** Chooses, by typing or with the arrows, the next question of a method that takes several. */
const props = defineProps<{ method: Method; taken: string[]; questions: Question[] }>()
const emit = defineEmits<{ chosen: [id: number]; cancel: [] }>()
const { t } = useI18n()

const items = computed(() =>
  props.questions
    .filter((q) => !props.taken.includes(String(q.id)) && q.asks.includes(props.method.name))
    .map((q) => ({ value: q.id, title: `${q.number} · ${q.wording}`, keys: `${q.name} ${q.short}` })),
)
const chosen = ref<number | null>(null)
const field = useTemplateRef<{ focus: () => void }>('field')
onMounted(() => field.value?.focus())

function matches(_: string, typed: string, item?: { raw: { title: string; keys: string } }) {
  const text = `${item?.raw.title ?? ''} ${item?.raw.keys ?? ''}`.toLowerCase()
  return typed.toLowerCase().split(/\s+/).every((word) => text.includes(word))
}
function take(id: number | null) {
  if (id !== null) emit('chosen', id)
}
</script>

<template>
  <div class="other" data-test="other-question" @keydown.esc="$emit('cancel')">
    <p v-if="!items.length" class="soft">{{ t('topline.no_other') }}</p>
    <v-autocomplete
      v-else
      ref="field"
      v-model="chosen"
      :items="items"
      :label="t(`ask.${method.texts}.${taken.length > 1 ? 'third' : 'other'}`)"
      :placeholder="t('topline.find_other')"
      :no-data-text="t('app.nothing_found')"
      :custom-filter="matches"
      auto-select-first
      data-test="find-other"
      @update:model-value="take"
    />
  </div>
</template>

<style scoped>
.other { max-width: 520px; margin: 8px 0; }
</style>

<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Question } from '@/api/client'

/** Chooses, by typing or with the arrows, the question with which another one is crossed. */
const props = defineProps<{ question: Question; questions: Question[] }>()
const emit = defineEmits<{ cross: [id: number]; cancel: [] }>()
const { t } = useI18n()

const kinds = ['single', 'ordered', 'discrete']
const items = computed(() =>
  props.questions
    .filter((q) => q.id !== props.question.id && kinds.includes(q.kind) && !q.isCounts && q.damage === null)
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
  if (id !== null) emit('cross', id)
}
</script>

<template>
  <div class="cross" data-test="cross-with" @keydown.esc="$emit('cancel')">
    <p v-if="!items.length" class="soft">{{ t('topline.nothing_to_cross') }}</p>
    <v-autocomplete
      v-else
      ref="field"
      v-model="chosen"
      :items="items"
      :label="t('topline.cross_with')"
      :placeholder="t('topline.cross_find')"
      :no-data-text="t('app.nothing_found')"
      :custom-filter="matches"
      auto-select-first
      data-test="cross-find"
      @update:model-value="take"
    />
  </div>
</template>

<style scoped>
.cross { max-width: 520px; margin: 8px 0; }
</style>

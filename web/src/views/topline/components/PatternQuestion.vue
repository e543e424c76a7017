<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** Chooses the question for which a claim is to be a pattern. */
defineProps<{ items: { value: number; title: string }[] }>()
defineEmits<{ chosen: [id: number | null]; close: [] }>()
const { t } = useI18n()
</script>

<template>
  <v-autocomplete
    :model-value="null"
    :items="items"
    :label="t('claim.pattern_which')"
    :no-data-text="t('app.nothing_found')"
    auto-select-first
    autofocus
    data-test="pattern-question"
    @update:model-value="$emit('chosen', $event)"
    @keydown.esc="$emit('close')"
  />
</template>

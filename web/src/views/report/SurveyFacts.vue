<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import type { ReportPage } from '@/api/client'

/** What the profession asks a survey to disclose, a line each. */
const props = defineProps<{ page: ReportPage }>()
const emit = defineEmits<{ keep: [facts: { key: string; text: string }[]]; leave: [] }>()
const { t } = useI18n()
const said = new Map((props.page.report.facts ?? []).map((f) => [f.key, f.text]))
const lines = ref(props.page.disclosed.map((d) => ({ ...d, text: said.get(d.key) ?? '' })))
const keep = () => emit('keep', lines.value.filter((l) => l.text.trim()).map(({ key, text }) => ({ key, text: text.trim() })))
</script>

<template>
  <form class="facts" data-test="facts-form" @submit.prevent="keep" @keydown.esc.stop="emit('leave')">
    <v-textarea
      v-for="l in lines"
      :key="l.key"
      v-model="l.text"
      :label="l.name"
      :hint="t(`report_page.hint.${l.key}`)"
      :maxlength="2000"
      :data-test="`fact-${l.key}`"
      persistent-hint
      density="compact"
      auto-grow
      rows="1"
    />
    <p class="acts">
      <v-btn type="submit" variant="flat" color="primary" data-test="facts-keep">{{ t('report_page.keep') }}</v-btn>
      <button type="button" class="act" @click="emit('leave')">{{ t('app.cancel') }}</button>
    </p>
  </form>
</template>

<style scoped>
.facts { border-left: 3px solid var(--teal); padding: 4px 0 4px 18px; margin: 8px 0 16px; display: grid; gap: 8px; max-width: 720px; }
.acts { align-items: center; }
</style>

<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import TextPieces from './TextPieces.vue'

import type { Topic } from '@/api/client'

/** An explanation in the margin, until it is put away. */
defineProps<{ topic: Topic }>()
defineEmits<{ close: [] }>()
const { t } = useI18n()
</script>

<template>
  <section class="help" role="status" data-test="help">
    <h4>{{ topic.title }}</h4>
    <p
      v-for="(paragraph, i) in topic.paragraphs"
      :key="i"
    ><TextPieces :pieces="paragraph" /></p>
    <button type="button" class="act small" @click="$emit('close')">{{ t('app.close') }}</button>
  </section>
</template>

<style scoped>
.help {
  position: sticky;
  top: 66px;
  background: var(--paper);
  z-index: 1;
  border-top: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
  padding: 8px 0;
  margin-bottom: 12px;
  color: var(--ink);
  font-style: normal;
}
h4 { font: 600 14.5px 'Source Sans 3 Variable', sans-serif; }
</style>

<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** A file that is being written before it can be saved, how far, and the way to stop it. */
defineProps<{ name: string; percent: number }>()
defineEmits<{ stop: [] }>()
const { t } = useI18n()
</script>

<template>
  <p class="writing" role="status" data-test="writing">
    {{ t('report_page.writing', { name }) }}{{ percent > 0 ? ` ${Math.floor(percent)} %` : '' }}
    <button type="button" class="act" data-test="stop-writing" @click="$emit('stop')">{{ t('app.cancel') }}</button>
  </p>
</template>

<style scoped>
.writing { display: flex; gap: 18px; margin-bottom: 14px; align-items: baseline; }
</style>

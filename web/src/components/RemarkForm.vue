<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'

/** A remark while it is written. */
const emit = defineEmits<{ write: [text: string]; cancel: [] }>()
const { t } = useI18n()
const text = ref('')
const field = ref<{ focus: () => void } | null>(null)
onMounted(() => field.value?.focus())
const write = () => text.value.trim() && emit('write', text.value)
</script>

<template>
  <form @submit.prevent="write">
    <v-textarea
      ref="field"
      v-model="text"
      :label="t('remark.text')"
      rows="2"
      auto-grow
      maxlength="2000"
      data-test="remark-text"
      @keydown.ctrl.enter="write"
      @keydown.meta.enter="write"
      @keydown.esc.stop="emit('cancel')"
    />
    <button type="submit" class="act" data-test="remark-keep">{{ t('remark.keep') }}</button>
    <button type="button" class="act" @click="emit('cancel')">{{ t('remark.cancel') }}</button>
  </form>
</template>

<style scoped>
form { display: flex; flex-wrap: wrap; gap: 4px 14px; margin: 4px 0 8px; }
.v-textarea { flex-basis: 100%; }
.act { font-size: 13px; }
</style>

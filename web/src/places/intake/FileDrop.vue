<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

defineProps<{ most: string }>()
const emit = defineEmits<{ file: [file: File] }>()
const { t } = useI18n()
const over = ref(false)
const pasting = ref(false)
const pasted = ref('')
const input = ref<HTMLInputElement | null>(null)

function dropped(event: DragEvent) {
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) emit('file', file)
}

function chosen(event: Event) {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (file) emit('file', file)
  field.value = ''
}

function usePasted() {
  if (pasted.value.trim() !== '') emit('file', new File([pasted.value], 'pasted answers.txt', { type: 'text/plain' }))
}
</script>

<template>
  <div class="sheet">
    <div class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="dropped">
      <p class="serif big">{{ t('intake.drop') }}</p>
      <p class="acts">
        <span class="soft">{{ t('intake.or') }}</span>
        <v-btn variant="flat" color="primary" @click="input?.click()">{{ t('intake.choose') }}</v-btn>
        <button type="button" class="act" :aria-expanded="pasting" @click="pasting = !pasting">{{ t('intake.paste') }}</button>
      </p>
      <input ref="input" type="file" class="visually-hidden" tabindex="-1" accept=".csv,.tsv,.txt,.tab,text/csv,text/plain" :aria-label="t('intake.choose')" data-test="file" @change="chosen" />
      <p class="soft small">{{ t('intake.formats', { most }) }}</p>
    </div>
    <form v-if="pasting" class="paste" @submit.prevent="usePasted">
      <v-textarea v-model="pasted" :label="t('intake.paste_label')" rows="8" autofocus spellcheck="false" data-test="paste" />
      <v-btn type="submit" variant="flat" color="primary" :disabled="pasted.trim() === ''" data-test="paste-read">{{ t('intake.paste_read') }}</v-btn>
    </form>
  </div>
</template>

<style scoped>
.drop { max-width: 720px; border: 1.5px dashed var(--rule); padding: 44px 40px 34px; }
.drop.over { border-color: var(--teal); background: var(--tealwash); }
.big { font-size: 25px; margin-bottom: 12px; }
.acts { align-items: center; margin-bottom: 20px; }
.paste { max-width: 720px; margin-top: 22px; display: grid; gap: 12px; justify-items: start; }
.paste :deep(.v-textarea) { width: 100%; }
.paste :deep(textarea) { font-family: ui-monospace, monospace; font-size: 14px; }
</style>

<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import ChangedMeanwhile from '@/components/ChangedMeanwhile.vue'
import type { ReportOffer } from '@/api/client'

/** Prose is written in Markdown; a figure is taken from a list and follows its source. */
const props = defineProps<{ text: string; offers: readonly ReportOffer[] }>()
const emit = defineEmits<{ keep: [text: string]; leave: [] }>()
const { t } = useI18n()
const draft = ref(props.text)
const chosen = ref<string | null>(null)
const area = ref<{ $el: HTMLElement } | null>(null)
const field = () => area.value?.$el.querySelector('textarea') ?? null
onMounted(() => field()?.focus())

const short = (text: string) => (text.length > 60 ? `${text.slice(0, 59)}…` : text)

async function insert(key: string | null) {
  if (key === null) return
  const el = field()
  const at = el?.selectionStart ?? draft.value.length
  const end = el?.selectionEnd ?? at
  const put = `{${key}}`
  draft.value = draft.value.slice(0, at) + put + draft.value.slice(end)
  chosen.value = null
  await nextTick()
  el?.focus()
  el?.setSelectionRange(at + put.length, at + put.length)
}
</script>

<template>
  <form class="prose" data-test="prose" @submit.prevent="emit('keep', draft)">
    <ChangedMeanwhile :state="text" />
    <v-textarea
      ref="area"
      v-model="draft"
      :label="t('report_page.prose')"
      :maxlength="20000"
      auto-grow
      rows="4"
      hide-details
      @keydown.esc.stop="emit('leave')"
      @keydown.enter.ctrl.prevent="emit('keep', draft)"
    />
    <v-autocomplete
      v-model="chosen"
      :items="offers.map((o) => ({ value: o.key, title: `${o.key} → ${short(o.text)}` }))"
      :menu-props="{ maxWidth: 700 }"
      :label="t('report_page.insert')"
      density="compact"
      hide-details
      data-test="insert-figure"
      @update:model-value="insert"
    />
    <p class="soft small">{{ t('report_page.markdown') }}</p>
    <p class="acts">
      <v-btn type="submit" variant="flat" color="primary" data-test="prose-keep">{{ t('report_page.keep') }}</v-btn>
      <button type="button" class="act" @click="emit('leave')">{{ t('app.cancel') }}</button>
    </p>
  </form>
</template>

<style scoped>
.prose { border-left: 3px solid var(--teal); padding: 4px 0 4px 18px; margin: 8px 0 16px; display: grid; gap: 8px; max-width: 720px; }
.acts { align-items: center; }
</style>

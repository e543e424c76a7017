<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'
import { useCopied } from '@/composables/useCopied'

import type { Document } from '@/api/client'

/** Copies the write-up of a document, in the style that is kept for all. */
const props = defineProps<{ document: Document }>()
const { t } = useI18n()
const { copied, copy } = useCopied()
const styles = ['plain', 'journal', 'minimal'] as const
const style = useLocalStorage<(typeof styles)[number]>('write-up-style', 'plain')
const text = computed(() => props.document.blocks.find((b) => b.styles)?.styles?.[style.value].join('\n') ?? '')
const items = computed(() => styles.map((value) => ({ value, title: t(`claim.style.${value}`) })))
</script>

<template>
  <template v-if="text">
    <button
      type="button"
      class="act"
      data-test="write-up"
      @click="copy(text)"
    >{{ copied ? t('topline.copied') : t('claim.write_up') }}</button>
    <ChoiceMenu v-model="style" small :items="items" :label="t('claim.style.label')" test="write-up-style" />
  </template>
</template>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import SentenceBlank from '@/components/SentenceBlank.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'

import { typed } from './typed'

import type { Settings } from '@/api/client'

/** How many said yes, and how many were asked or said no, as a sentence. */
const emit = defineEmits<{ read: [text: string, change: Partial<Settings>] }>()
const { t } = useI18n()
const { first, second, means } = typed
const items = computed(() => (['asked', 'no'] as const).map((value) => ({ value, title: t(`intake.second.${value}`) })))
const ready = computed(() => first.value.trim() !== '' && second.value.trim() !== '')

function read() {
  if (ready.value)
    emit('read', `${first.value.trim()}\t${second.value.trim()}\n`, {
      shape: 'two',
      second: means.value,
      headerRow: 0,
      delimiter: '\t',
    })
}
</script>

<template>
  <form class="two" @submit.prevent="read">
    <p class="sentence">
      <SentenceBlank v-model="first" :label="t('intake.said_yes')" placeholder="62" :maxlength="16" test="yes" /> {{ t('intake.said_yes') }}
      <SentenceBlank v-model="second" :label="t(`intake.second.${means}`)" placeholder="100" :maxlength="16" test="second" />
      <ChoiceMenu v-model="means" :items="items" :label="t('intake.second_means')" test="second-means" />.
    </p>
    <v-btn type="submit" variant="flat" color="primary" :disabled="!ready" data-test="two-read">{{ t('intake.paste_read') }}</v-btn>
  </form>
</template>

<style scoped>
.two { margin-top: 20px; max-width: 820px; }
.sentence { font: 500 18px/2.1 'Source Serif 4 Variable', serif; margin-bottom: 8px; }
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Method, Question } from '@/api/client'

/** What can be done with a question: what is asked most stands in the line, the rest in a menu. */
const props = defineProps<{
  question: Question
  methods: Method[]
  asking: string | null
  arranging: boolean
  deriving: 'merge' | 'bands' | null
  designing: boolean
}>()
const emit = defineEmits<{ open: [method: Method]; arrange: []; derive: [rule: 'merge' | 'bands']; select: []; shelve: []; design: [] }>()
const { t } = useI18n()

const usual = computed(() => props.methods.filter((m) => !m.seldom))
const seldom = computed(() => props.methods.filter((m) => m.seldom))
const opens = (m: Method) => m.tests || m.questions.length > 1 || m.more === 'others'
const makes = (rule: 'merge' | 'bands') => props.question.derivable.some((d) => d.rule === rule)
</script>

<template>
  <p class="acts">
    <button
      v-for="m in usual"
      :key="m.name"
      type="button"
      class="act"
      :aria-expanded="opens(m) ? asking === m.name : undefined"
      :data-test="`ask-${m.name}`"
      @click="emit('open', m)"
    >{{ t(`ask.${m.texts}.act`) }}</button>
    <button
      v-if="question.proposed.length"
      type="button"
      class="act"
      :aria-expanded="designing"
      data-test="design-step"
      @click="emit('design')"
    >{{ t('design.act') }}</button>
    <button
      v-if="question.tabulated"
      type="button"
      class="act"
      :aria-expanded="arranging"
      data-test="arrange"
      @click="emit('arrange')"
    >{{ arranging ? t('topline.arranged') : t('topline.arrange') }}</button>
    <v-menu>
      <template #activator="{ props: activator }">
        <button
          v-bind="activator"
          type="button"
          class="act"
          data-test="more"
        >{{ t('topline.more') }} <span aria-hidden="true">▾</span></button>
      </template>
      <v-list :aria-label="t('topline.more')">
        <v-list-item
          v-for="m in seldom"
          :key="m.name"
          :title="t(`ask.${m.texts}.act`)"
          :data-test="`ask-${m.name}`"
          @click="emit('open', m)"
        />
        <v-list-item v-if="makes('merge')" :title="t('topline.merge')" data-test="merge" @click="emit('derive', 'merge')" />
        <v-list-item v-if="makes('bands')" :title="t('topline.bands')" data-test="bands" @click="emit('derive', 'bands')" />
        <v-list-item v-if="question.tabulated" :title="t('shares.shelve')" data-test="shelve" @click="emit('shelve')" />
        <v-list-item
          v-if="question.tabulated"
          :title="question.selected ? t('topline.selected') + ' ✓' : t('topline.select')"
          data-test="select"
          @click="emit('select')"
        />
      </v-list>
    </v-menu>
  </p>
</template>

<style scoped>
.acts { margin: 9px 0 4px; gap: 6px 18px; }
</style>

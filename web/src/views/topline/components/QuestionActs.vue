<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import MenuButton from '@/components/MenuButton.vue'
import { opensForm, useMethods } from '@/composables/useMethods'

import type { Method, Question } from '@/api/client'
import type { MenuEntry } from '@/components/menu'

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
/** Nothing of the line is there to be pressed before all of it has its place. */
const { settled } = useMethods()

const usual = computed(() => props.methods.filter((m) => !m.seldom))
const seldom = computed(() => props.methods.filter((m) => m.seldom))
const makes = (rule: 'merge' | 'bands') => props.question.derivable.some((d) => d.rule === rule)
const entry = (key: string, title: string, act: () => void): MenuEntry => ({ key, title, act, test: key })
const more = computed(() => [
  ...seldom.value.map((m) => entry(`ask-${m.name}`, t(`ask.${m.texts}.act`), () => emit('open', m))),
  ...(makes('merge') ? [entry('merge', t('topline.merge'), () => emit('derive', 'merge'))] : []),
  ...(makes('bands') ? [entry('bands', t('topline.bands'), () => emit('derive', 'bands'))] : []),
  ...(props.question.tabulated
    ? [
        entry('shelve', t('topline.shelve'), () => emit('shelve')),
        entry('select', props.question.selected ? t('topline.selected') + ' ✓' : t('topline.select'), () => emit('select')),
      ]
    : []),
])
</script>

<template>
  <p class="acts" :class="{ coming: !settled }">
    <button
      v-for="m in usual"
      :key="m.name"
      type="button"
      class="act"
      :aria-expanded="opensForm(m) ? asking === m.name : undefined"
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
    >{{ t('topline.design') }}</button>
    <button
      v-if="question.tabulated"
      type="button"
      class="act"
      :aria-expanded="arranging"
      data-test="arrange"
      @click="emit('arrange')"
    >{{ arranging ? t('topline.arranged') : t('topline.arrange') }}</button>
    <MenuButton
      class="act"
      data-test="more"
      :label="t('topline.more')"
      :entries="more"
    >{{ t('topline.more') }}</MenuButton>
  </p>
</template>

<style scoped>
.acts { margin: 9px 0 4px; gap: 6px 18px; }
.coming { visibility: hidden; }
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { levelText } from '@/app/format'
import SentenceBlank from '@/components/SentenceBlank.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'

import type { Group, Input } from '@/api/client'

/** One blank of a sentence, filled in as its kind asks. */
const value = defineModel<unknown>({ required: true })
const props = defineProps<{ input: Input; texts: string; options: string[]; picked: string[]; groups: Group[] }>()
const { t, te } = useI18n()

const label = computed(() => t(`ask.${props.texts}.labels.${props.input.name}`))
const hint = computed(() => (te(`ask.${props.texts}.hints.${props.input.name}`) ? t(`ask.${props.texts}.hints.${props.input.name}`) : ''))
const typed = computed({ get: () => (typeof value.value === 'string' ? value.value : ''), set: (text: string) => (value.value = text) })

const choices = computed(() =>
  props.input.kind === 'category'
    ? props.groups.map((g) => ({ value: g.code, title: g.label }))
    : props.options.map((o) => ({
      value: o,
      title: t(`ask.${props.texts}.options.${props.input.name}.${o.replace('.', '_')}`), // a point parts names
    })),
)

const OTHER = 'other'
const level = computed({
  get: () => (typeof value.value === 'number' ? String(value.value) : value.value === undefined ? (props.input.usual ?? OTHER) : OTHER),
  set: (chosen: string) => (value.value = chosen === OTHER ? '' : Number(chosen)),
})
const levels = computed(() => {
  const all =
    typeof value.value === 'number' && !props.options.includes(String(value.value))
      ? [...props.options, String(value.value)]
      : props.options
  return [...all.map((o) => ({ value: o, title: levelText(Number(o)) })), { value: OTHER, title: t('claim.other_level') }]
})
</script>

<template>
  <ChoiceMenu
    v-if="input.kind === 'choice' || input.kind === 'category'"
    v-model="typed"
    :items="choices"
    :label="label"
    :placeholder="hint"
    :test="input.name"
  />
  <template v-else-if="input.kind === 'level'">
    <ChoiceMenu v-model="level" :items="levels" :label="label" :placeholder="hint" :test="input.name" />
    <SentenceBlank
      v-if="level === OTHER"
      v-model="typed"
      :label="t('claim.other_level')"
      placeholder="2 %"
      :maxlength="input.maxLength ?? 12"
      :test="`${input.name}.other`"
    />
  </template>
  <span
    v-else-if="input.kind === 'categories'"
    class="picked"
    :data-test="input.name"
  >{{ picked.length ? picked.map((p) => `“${p}”`).join(' + ') : hint }}</span>
  <SentenceBlank
    v-else
    v-model="typed"
    :label="label"
    :placeholder="hint"
    :maxlength="input.maxLength ?? 160"
    :required="input.needed ?? false"
    :test="input.name"
  />
</template>

<style scoped>
.picked {
  font:
    600 16px/1.45 'Source Sans 3 Variable',
    sans-serif;
  color: var(--teal);
  border-bottom: 2px dotted var(--teal);
  padding: 1px 4px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { I18nT } from 'vue-i18n'

import InputBlank from './InputBlank.vue'

import type { Group, Input, Method } from '@/api/client'

/** The sentence that asks, whose blanks are the choices. */
const props = defineProps<{
  method: Method
  inputs: Input[]
  lines: Method['lines']
  names: Record<string, string>
  picked: string[]
  /** The answers of the other question, among which groups are chosen. */
  groups: Group[]
  valueOf: (name: string) => unknown
  optionsOf: (input: Input) => string[]
}>()
defineEmits<{ set: [name: string, value: unknown] }>()
const slotOf = (name: string) => name.replaceAll('.', '_')
/** What is said in other words already is no blank. */
const blanks = computed(() => props.inputs.filter((i) => i.kind !== 'figures' && !(slotOf(i.name) in props.names)))
</script>

<template>
  <p class="sentence">
    <template v-for="line in lines" :key="line.id">
      <I18nT :keypath="`ask.${method.texts}.${line.id}`" scope="global">
        <template v-for="(text, name) in names" :key="name" #[name]>{{ text }}</template>
        <template v-for="input in blanks" :key="input.name" #[slotOf(input.name)]>
          <InputBlank
            :model-value="valueOf(input.name)"
            :input="input"
            :texts="method.texts"
            :options="optionsOf(input)"
            :picked="picked"
            :groups="groups"
            @update:model-value="$emit('set', input.name, $event)"
          />
        </template>
      </I18nT>
      {{ ' ' }}
    </template>
  </p>
</template>

<style scoped>
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 800px; margin-bottom: 8px; }
</style>

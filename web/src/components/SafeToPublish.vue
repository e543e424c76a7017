<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'

import CellField from './CellField.vue'
import ChoiceMenu from './ChoiceMenu.vue'
import ErrorNote from './ErrorNote.vue'

import type { DisclosureRule } from '@/api/client'

/** What may be told wherever something leaves a study: a sentence whose blanks are the rule. */
const props = defineProps<{ study: number; may: boolean; state: unknown }>()
const emit = defineEmits<{ changed: [] }>()
const { t } = useI18n()
const rule = shallowRef<DisclosureRule>({})
const version = ref(0)
const said = ref<string[]>([])
const open = ref(false)
const { error, attempt } = useAttempt()
async function load() {
  const got = await attempt(() => api.disclosure(props.study))
  if (got) take(got.value)
}
function take(got: { rule: DisclosureRule; version: number; said: string[] }) {
  rule.value = got.rule
  version.value = got.version
  said.value = got.said
}
onMounted(load)
watch(() => [props.study, props.state], load)
async function change(part: DisclosureRule) {
  const done = await attempt(() => api.editDisclosure(props.study, version.value, { ...rule.value, ...part }))
  if (!done) return void load()
  take(done.value)
  emit('changed')
}
function limit(member: 'fewest' | 'least', text: string, field: HTMLInputElement) {
  const n = Number(text.trim() || '0')
  if (!Number.isInteger(n) || n < 0 || n > 10_000) field.value = String(rule.value[member] ?? 0)
  else void change({ [member]: n })
}
const roundings = computed(() => ([0, 3, 5, 10] as const).map((value) => ({ value, title: t(`safe.rounding.${value}`) })))
const ends = computed(() => [{ value: false, title: t('safe.ends.alone') }, { value: true, title: t('safe.ends.together') }])
const counts = computed(() => [{ value: false, title: t('safe.counts.with') }, { value: true, title: t('safe.counts.without') }])
</script>

<template>
  <div class="safe" data-test="safe">
    <p class="acts line">
      <button type="button" class="act" :aria-expanded="open" data-test="safe-open" @click="open = !open">{{ t('safe.act') }}</button>
      <span class="soft small">{{ said.length ? said.join(' ') : t('safe.none') }}</span>
    </p>
    <ErrorNote v-if="error" :error="error" />
    <div v-if="open" class="form">
      <p v-if="may" class="sentence">
        <I18nT keypath="safe.sentence" scope="global">
          <template #fewest><CellField
            class="number"
            inputmode="numeric"
            :value="rule.fewest ?? 0"
            :label="t('safe.labels.fewest')"
            data-test="fewest"
            @change="(text, field) => limit('fewest', text, field)"
          /></template>
          <template #least><CellField
            class="number"
            inputmode="numeric"
            :value="rule.least ?? 0"
            :label="t('safe.labels.least')"
            data-test="least-base"
            @change="(text, field) => limit('least', text, field)"
          /></template>
          <template #rounding><ChoiceMenu
            :model-value="rule.rounding ?? 0"
            :items="roundings"
            :label="t('safe.labels.rounding')"
            test="rounding"
            @update:model-value="(v) => change({ rounding: v })"
          /></template>
          <template #counts><ChoiceMenu
            :model-value="rule.percentsOnly ?? false"
            :items="counts"
            :label="t('safe.labels.counts')"
            test="percents-only"
            @update:model-value="(v) => change({ percentsOnly: v })"
          /></template>
          <template #ends><ChoiceMenu
            :model-value="rule.codeEnds ?? false"
            :items="ends"
            :label="t('safe.labels.ends')"
            test="code-ends"
            @update:model-value="(v) => change({ codeEnds: v })"
          /></template>
        </I18nT>
      </p>
      <p class="soft small">{{ t('safe.where') }}</p>
    </div>
  </div>
</template>

<style scoped>
.safe { margin: 8px 0; max-width: 940px; }
.line { align-items: baseline; flex-wrap: wrap; }
.form { border-left: 3px solid var(--teal); padding: 2px 0 4px 14px; }
.sentence { font: 500 16.5px/2 'Source Serif 4 Variable', serif; }
@media print { .safe { display: none; } }
</style>

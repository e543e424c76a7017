<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import SentenceBlank from '@/components/SentenceBlank.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'

import MergeBoard from './MergeBoard.vue'

import type { Answer, Derivation, DerivedEdit } from '@/api/client'

/** What a definition needs of a question. */
interface Source {
  id: number
  name: string
  wording: string
  answers: Answer[]
}

/** A question made from others, as a sentence whose blanks are its definition. */
const props = defineProps<{ rule: Derivation['rule']; questions: Source[]; was?: { wording: string; derivation: Derivation | null } }>()
const emit = defineEmits<{ save: [body: DerivedEdit]; cancel: [] }>()
const { t } = useI18n()
const before = props.was?.derivation
const wording = ref(props.was?.wording ?? t(`derive.wording.${props.rule}`, { wording: props.questions[0]?.wording ?? '' }))
const form = reactive({
  cut: (before?.cut ?? 'given') as 'given' | 'width' | 'groups',
  limits: (before?.limits ?? []).join(', '),
  number: String(before?.number ?? 4),
  upperClosed: before?.upperClosed ?? false,
  separator: before?.separator ?? ';',
})
const groups = ref(before?.groups ?? [])
const proper = (q: Source) => q.answers.filter((a) => a.missing === '' && a.sameAs === null)
const yes = /^(1|yes|true|x|y|chosen|selected)$/i
const chosen = ref<Record<number, number[]>>(
  Object.fromEntries(
    props.questions.map((q, i) => [
      q.id,
      before?.chosen?.[i] ??
        proper(q)
          .filter((a) => yes.test(a.code.trim()))
          .map((a) => a.slot),
    ]),
  ),
)

const cuts = computed(() => (['given', 'width', 'groups'] as const).map((value) => ({ value, title: t(`derive.cut.${value}`) })))
const sides = computed(() => [false, true].map((value) => ({ value, title: t(value ? 'derive.upper' : 'derive.lower') })))
const limits = computed(() =>
  form.limits
    .split(/[;\s]+|,\s+|,(?=\d*\.)/)
    .map((x) => x.trim())
    .filter((x) => x !== '')
    .map((x) => Number(x.replace(',', '.').replace('−', '-'))),
)

const definition = computed<Derivation>(() => {
  const d: Derivation = { rule: props.rule, sources: props.questions.map((q) => q.id) }
  if (props.rule === 'merge') d.groups = groups.value
  if (props.rule === 'bands') {
    d.cut = form.cut
    d.upperClosed = form.upperClosed
    if (form.cut === 'given') d.limits = limits.value
    else d.number = Number(form.number)
  }
  if (props.rule === 'together') d.chosen = props.questions.map((q) => chosen.value[q.id] ?? [])
  if (props.rule === 'parts') d.separator = form.separator
  return d
})
const ready = computed(() => {
  if (wording.value.trim() === '') return false
  if (props.rule === 'merge') return groups.value.length > 0
  if (props.rule === 'bands')
    return form.cut === 'given'
      ? limits.value.length > 0 && limits.value.every((x) => Number.isFinite(x))
      : Number(form.number) >= 2
  if (props.rule === 'together') return props.questions.every((q) => (chosen.value[q.id] ?? []).length > 0)
  return true
})
function toggle(id: number, slot: number) {
  const had = chosen.value[id] ?? []
  chosen.value = { ...chosen.value, [id]: had.includes(slot) ? had.filter((s) => s !== slot) : [...had, slot] }
}
</script>

<template>
  <form
    class="derive"
    data-test="derive-form"
    @submit.prevent="ready && emit('save', { wording, derivation: definition })"
    @keydown.esc="emit('cancel')"
  >
    <p class="sentence">
      {{ t(`derive.line.${rule}`, { list: questions.map((q) => q.name).join(', ') }) }}
      <template v-if="rule === 'bands'">
        <ChoiceMenu v-model="form.cut" :items="cuts" :label="t('derive.cut_label')" test="cut" />
        <SentenceBlank
          v-if="form.cut === 'given'"
          v-model="form.limits"
          :label="t('derive.limits')"
          placeholder="18, 35, 65"
          :maxlength="300"
          test="limits"
        />
        <SentenceBlank
          v-else
          v-model="form.number"
          :label="t('derive.number')"
          placeholder="4"
          :maxlength="3"
          test="number"
        />;
        {{ t('derive.side') }} <ChoiceMenu v-model="form.upperClosed" :items="sides" :label="t('derive.side')" test="side" />.
      </template>
      <template v-if="rule === 'parts'"><SentenceBlank
        v-model="form.separator"
        :label="t('derive.separator')"
        placeholder=";"
        :maxlength="10"
      />.</template>
      {{ t('derive.called') }} <SentenceBlank
        v-model="wording"
        :label="t('codebook.wording')"
        :placeholder="t('codebook.wording')"
        :maxlength="1000"
        required
        test="derived-wording"
      />.
    </p>
    <MergeBoard v-if="rule === 'merge' && questions[0]" v-model="groups" :answers="proper(questions[0])" />
    <ul v-if="rule === 'together'" class="items">
      <li v-for="q in questions" :key="q.id"><b>{{ q.name }}</b>: {{ t('derive.means_chosen') }}
        <v-checkbox-btn
          v-for="a in proper(q)"
          :key="a.slot"
          inline
          :label="a.label"
          :model-value="(chosen[q.id] ?? []).includes(a.slot)"
          @update:model-value="toggle(q.id, a.slot)"
        />
      </li>
    </ul>
    <p class="acts">
      <v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="!ready"
        data-test="derive-save"
      >{{ was ? t('derive.save') : t('derive.make') }}</v-btn>
      <button type="button" class="act" @click="emit('cancel')">{{ t('app.cancel') }}</button>
    </p>
  </form>
</template>

<style scoped>
.derive { border-left: 3px solid var(--teal); padding: 2px 0 6px 16px; margin: 6px 0 16px; }
.sentence { font: 500 17px/2 'Source Serif 4 Variable', serif; max-width: 900px; }
.items { padding-left: 18px; margin: 6px 0 10px; }
.items .v-selection-control { margin-left: 12px; }
.acts { align-items: center; }
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { kindsHere } from '@/app/kinds'
import ChoiceMenu from '@/components/ChoiceMenu.vue'

import BulkAsk from './BulkAsk.vue'

import type { AnswerList, BulkEdit, CodebookQuestion, Derivation, DerivedEdit, Kind, Spec } from '@/api/client'

/** What can be done with the chosen questions at once. */
const props = defineProps<{ questions: CodebookQuestion[]; lists: AnswerList[] }>()
const emit = defineEmits<{
  bulk: [change: Omit<BulkEdit, 'questions'>]
  derive: [rule: Derivation['rule']]
  ask: [spec: Spec]
  merge: [derived: DerivedEdit[]]
  clear: []
}>()
const { t } = useI18n()
const section = ref('')
const code = ref('')
const reason = ref('')
const listName = ref('')
const labels = ref('')
const way = ref<'' | 'missing' | 'section' | 'list' | 'labels'>('')
const toggle = (to: typeof way.value) => (way.value = way.value === to ? '' : to)

const none = '' as Kind | ''
const kinds = computed(() =>
  props.questions
    .map((q) => kindsHere(q))
    .reduce((a, b) => a.filter((k) => b.includes(k)))
    .map((value) => ({ value: value as Kind | '', title: t(`topline.kinds.${value}`) })),
)
const listed = computed(() => [...props.lists.map((l) => ({ value: l.id, title: l.name })), { value: 0, title: t('codebook.no_list') }])
const coded = computed(() => props.questions.every((q) => q.coded))
/** The rules that every one of the chosen questions serves, and for which they are not too
 * few or too many. */
const rules = computed(() => {
  const n = props.questions.length
  return (props.questions[0]?.derivable ?? [])
    .filter(
      (r) =>
        n >= r.least &&
        (r.most === 0 || n <= r.most) &&
        props.questions.every((q) => q.derivable.some((other) => other.rule === r.rule)),
    )
    .map((r) => r.rule)
})

function missing() {
  const codes = code.value.split(/[,;]/).map((c) => c.trim()).filter((c) => c !== '')
  if (codes.length) emit('bulk', { missing: Object.fromEntries(codes.map((c) => [c, reason.value.trim()])) })
  code.value = ''
}
function makeList() {
  if (listName.value.trim() !== '') emit('bulk', { makeList: listName.value.trim() })
}
</script>

<template>
  <div class="bar" role="toolbar" :aria-label="t('codebook.bulk', questions.length)" data-test="bulk">
    <p class="acts">
      <b>{{ t('codebook.chosen', questions.length) }}</b>
      <span v-if="kinds.length">{{ t('codebook.kind') }} <ChoiceMenu
        :model-value="none"
        :items="kinds"
        :label="t('codebook.kind')"
        :placeholder="t('codebook.set_kind')"
        small
        test="bulk-kind"
        @update:model-value="emit('bulk', { kind: $event as Kind })"
      /></span>
      <button
        type="button"
        class="act"
        :aria-expanded="way === 'section'"
        @click="toggle('section')"
      >{{ t('codebook.section') }}</button>
      <button
        type="button"
        class="act"
        :aria-expanded="way === 'missing'"
        data-test="bulk-missing"
        @click="toggle('missing')"
      >{{ t('codebook.missing_codes') }}</button>
      <button
        v-if="coded"
        type="button"
        class="act"
        :aria-expanded="way === 'list'"
        data-test="bulk-list"
        @click="toggle('list')"
      >{{ t('codebook.shared_list') }}</button>
      <button
        type="button"
        class="act"
        :aria-expanded="way === 'labels'"
        data-test="bulk-labels"
        @click="toggle('labels')"
      >{{ t('codebook.paste_labels') }}</button>
      <button
        v-if="coded"
        type="button"
        class="act"
        data-test="bulk-reverse"
        @click="emit('bulk', { reverse: true })"
      >{{ t('codebook.reverse') }}</button>
      <button
        v-for="r in rules"
        :key="r"
        type="button"
        class="act derive"
        :data-test="`derive-${r}`"
        @click="emit('derive', r)"
      >{{ t(`derive.act.${r}`) }}</button>
      <BulkAsk :questions="questions" @ask="emit('ask', $event)" @merge="emit('merge', $event)" />
      <button type="button" class="act" @click="emit('clear')">{{ t('codebook.clear') }}</button>
    </p>
    <form v-if="way === 'section'" class="acts" @submit.prevent="emit('bulk', { section })">
      <v-text-field
        v-model="section"
        class="blank"
        :label="t('codebook.section')"
        maxlength="120"
      /><button type="submit" class="act">{{ t('codebook.apply') }}</button>
    </form>
    <form v-if="way === 'missing'" class="acts" @submit.prevent="missing">
      <v-text-field
        v-model="code"
        class="blank"
        :label="t('codebook.codes')"
        placeholder="-9, 99"
        maxlength="200"
        data-test="missing-codes"
      />
      <v-text-field
        v-model="reason"
        class="blank"
        :label="t('codebook.mean')"
        :placeholder="t('codebook.reason_hint')"
        maxlength="60"
        data-test="missing-reason"
      />
      <button type="submit" class="act" data-test="missing-apply">{{ t('codebook.apply') }}</button>
      <span class="soft small">{{ t('codebook.missing_hint') }}</span>
    </form>
    <form v-if="way === 'list'" class="acts" @submit.prevent="makeList">
      <span v-if="lists.length">{{ t('codebook.use_list') }} <ChoiceMenu
        :model-value="-1"
        :items="listed"
        :label="t('codebook.use_list')"
        :placeholder="t('codebook.choose_list')"
        small
        @update:model-value="emit('bulk', { listId: $event })"
      /></span>
      <v-text-field
        v-model="listName"
        class="blank"
        :label="t('codebook.make_list')"
        :placeholder="t('codebook.list_hint')"
        maxlength="120"
        data-test="list-name"
      />
      <button type="submit" class="act" data-test="make-list">{{ t('codebook.apply') }}</button>
    </form>
    <form v-if="way === 'labels'" class="labels" @submit.prevent="emit('bulk', { labels })">
      <v-textarea v-model="labels" :label="t('codebook.labels_hint')" rows="4" spellcheck="false" data-test="labels" />
      <button type="submit" class="act" data-test="labels-apply">{{ t('codebook.apply') }}</button>
    </form>
  </div>
</template>

<style scoped>
.bar { border-left: 3px solid var(--teal); padding: 2px 0 4px 14px; margin-bottom: 12px; }
.blank { flex: 0 1 230px; }
form { margin-top: 8px; }
.labels { max-width: 460px; }
.derive { font-style: italic; }
</style>

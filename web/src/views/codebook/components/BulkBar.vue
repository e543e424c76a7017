<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { kindsHere } from '@/app/kinds'

import type { AnswerList, BulkEdit, CodebookQuestion, Derivation, Kind } from '@/api/client'

/** What can be done with the chosen questions at once. */
const props = defineProps<{ questions: CodebookQuestion[]; lists: AnswerList[] }>()
const emit = defineEmits<{ bulk: [change: Omit<BulkEdit, 'questions'>]; derive: [rule: Derivation['rule']]; clear: [] }>()
const { t } = useI18n()
const section = ref('')
const code = ref('')
const reason = ref('')
const listName = ref('')
const labels = ref('')
const way = ref<'' | 'missing' | 'section' | 'list' | 'labels'>('')
const toggle = (to: typeof way.value) => (way.value = way.value === to ? '' : to)

const kinds = computed(() => props.questions.map((q) => kindsHere(q)).reduce((a, b) => a.filter((k) => b.includes(k))))
const coded = computed(() => props.questions.every((q) => ['single', 'ordered', 'discrete'].includes(q.kind)))
const isOne = computed(() => props.questions.length === 1)
const kindOf = computed(() => props.questions[0]?.kind)
const rules = computed(() => {
  const out: Derivation['rule'][] = []
  if (isOne.value && (coded.value || kindOf.value === 'choose_all')) out.push('merge')
  if (isOne.value && (kindOf.value === 'discrete' || kindOf.value === 'continuous')) out.push('bands')
  if (isOne.value && kindOf.value === 'choose_all') out.push('how_many')
  if (isOne.value && ['single', 'text'].includes(kindOf.value ?? '')) out.push('parts')
  if (props.questions.length === 2 && coded.value) out.push('combine')
  if (props.questions.length >= 2 && coded.value) out.push('together')
  return out
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
      <label v-if="kinds.length">{{ t('codebook.kind') }}
        <select value="" data-test="bulk-kind" @change="emit('bulk', { kind: ($event.target as HTMLSelectElement).value as Kind })">
          <option value="" disabled>{{ t('codebook.set_kind') }}</option>
          <option v-for="k in kinds" :key="k" :value="k">{{ t(`topline.kinds.${k}`) }}</option>
        </select>
      </label>
      <button type="button" class="act" :aria-expanded="way === 'section'" @click="toggle('section')">{{ t('codebook.section') }}</button>
      <button type="button" class="act" :aria-expanded="way === 'missing'" data-test="bulk-missing" @click="toggle('missing')">{{ t('codebook.missing_codes') }}</button>
      <button
        v-if="coded"
        type="button"
        class="act"
        :aria-expanded="way === 'list'"
        data-test="bulk-list"
        @click="toggle('list')"
      >{{ t('codebook.shared_list') }}</button>
      <button type="button" class="act" :aria-expanded="way === 'labels'" data-test="bulk-labels" @click="toggle('labels')">{{ t('codebook.paste_labels') }}</button>
      <button v-if="coded" type="button" class="act" data-test="bulk-reverse" @click="emit('bulk', { reverse: true })">{{ t('codebook.reverse') }}</button>
      <button
        v-for="r in rules"
        :key="r"
        type="button"
        class="act derive"
        :data-test="`derive-${r}`"
        @click="emit('derive', r)"
      >{{ t(`derive.act.${r}`) }}</button>
      <button type="button" class="act" @click="emit('clear')">{{ t('codebook.clear') }}</button>
    </p>
    <form v-if="way === 'section'" class="acts" @submit.prevent="emit('bulk', { section })">
      <label>{{ t('codebook.section') }} <input v-model="section" maxlength="120" /></label><button type="submit" class="act">{{ t('codebook.apply') }}</button>
    </form>
    <form v-if="way === 'missing'" class="acts" @submit.prevent="missing">
      <label>{{ t('codebook.codes') }} <input v-model="code" placeholder="-9, 99" maxlength="200" data-test="missing-codes" /></label>
      <label>{{ t('codebook.mean') }} <input v-model="reason" :placeholder="t('codebook.reason_hint')" maxlength="60" data-test="missing-reason" /></label>
      <button type="submit" class="act" data-test="missing-apply">{{ t('codebook.apply') }}</button>
      <span class="soft small">{{ t('codebook.missing_hint') }}</span>
    </form>
    <form v-if="way === 'list'" class="acts" @submit.prevent="makeList">
      <label v-if="lists.length">{{ t('codebook.use_list') }}
        <select value="" @change="emit('bulk', { listId: Number(($event.target as HTMLSelectElement).value) })">
          <option value="" disabled>{{ t('codebook.choose_list') }}</option>
          <option v-for="l in lists" :key="l.id" :value="l.id">{{ l.name }}</option>
          <option value="0">{{ t('codebook.no_list') }}</option>
        </select>
      </label>
      <label>{{ t('codebook.make_list') }} <input v-model="listName" :placeholder="t('codebook.list_hint')" maxlength="120" data-test="list-name" /></label>
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
select, input { font: inherit; color: var(--ink); background: transparent; border: 0; border-bottom: 1px solid var(--rule); padding: 2px; }
select option { background: var(--sheet); color: var(--ink); }
form { margin-top: 8px; }
.labels { max-width: 460px; }
.derive { font-style: italic; }
</style>

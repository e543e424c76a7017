<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import AnswerArranger from '@/components/AnswerArranger.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'
import { kindsHere } from '@/app/kinds'

import ConditionEditor from './ConditionEditor.vue'
import DeriveForm from '@/components/deriving/DeriveForm.vue'

import type { AnswerList, BulkEdit, CodebookQuestion, Condition, DerivedEdit, QuestionEdit } from '@/api/client'

/** One question's page of the codebook. */
const props = defineProps<{ question: CodebookQuestion; questions: CodebookQuestion[]; lists: AnswerList[] }>()
const emit = defineEmits<{
  edit: [change: QuestionEdit]
  bulk: [change: Omit<BulkEdit, 'questions'>]
  rederive: [body: DerivedEdit]
  remove: []
  close: []
}>()
const { t } = useI18n()
const base = ref<Condition | null>(props.question.base)
const editingBase = ref(false)
const redefining = ref(false)
const code = ref('')
const label = ref('')
const sources = computed(() => (props.question.derivation?.sources ?? []).flatMap((id) => props.questions.find((q) => q.id === id) ?? []))

function addAnswer() {
  if (code.value.trim() === '') return
  emit('edit', { newAnswer: { code: code.value, label: label.value } })
  code.value = ''
  label.value = ''
}
function saveBase() {
  emit('edit', base.value ? { base: base.value } : { noBase: true })
  editingBase.value = false
}
</script>

<template>
  <section
    class="panel"
    :aria-label="question.name"
    data-test="question-panel"
  >
    <p class="acts head">
      <b class="serif">{{ question.name }}</b> <button
        type="button"
        class="act"
        @click="emit('close')"
      >
        {{ t('app.close') }}
      </button>
    </p>
    <v-textarea
      variant="underlined"
      rows="2"
      :label="t('codebook.wording')"
      :model-value="question.wording"
      maxlength="1000"
      @change="emit('edit', { wording: ($event.target as HTMLTextAreaElement).value })"
    />
    <v-textarea
      variant="underlined"
      rows="2"
      :label="t('codebook.note')"
      :model-value="question.note"
      maxlength="1000"
      data-test="note"
      @change="emit('edit', { note: ($event.target as HTMLTextAreaElement).value })"
    />
    <v-text-field
      :label="t('codebook.section')"
      :model-value="question.section"
      maxlength="120"
      data-test="section"
      @change="emit('edit', { section: ($event.target as HTMLInputElement).value })"
    />
    <p>
      {{ t('codebook.base') }}: <template v-if="!question.base">
        {{ t('codebook.asked_all') }}
      </template><template v-else>
        {{ t('codebook.asked_some') }}
      </template>
      <button
        type="button"
        class="act"
        :aria-expanded="editingBase"
        @click="editingBase = !editingBase"
      >{{ t('codebook.change_base') }}</button>
    </p>
    <form v-if="editingBase" @submit.prevent="saveBase">
      <ConditionEditor v-if="base" v-model="base" :questions="questions.filter((q) => q.id !== question.id)" />
      <p class="acts">
        <button v-if="!base" type="button" class="act" @click="base = { op: 'and', of: [] }">{{ t('codebook.add_base') }}</button>
        <button v-else type="button" class="act" @click="base = null">{{ t('codebook.drop_base') }}</button>
        <button type="submit" class="act">{{ t('codebook.apply') }}</button>
      </p>
    </form>
    <template v-if="question.derivation">
      <p>{{ t(`derive.made.${question.derivation.rule}`, { list: sources.map((q) => q.name).join(', ') }) }}
        <button
          v-if="question.derivation.rule !== 'summaries'"
          type="button"
          class="act"
          :aria-expanded="redefining"
          @click="redefining = !redefining"
        >{{ t('derive.change') }}</button>
        <button type="button" class="act" @click="emit('remove')">{{ t('derive.remove') }}</button>
      </p>
      <DeriveForm
        v-if="redefining"
        :rule="question.derivation.rule"
        :questions="sources"
        :was="question"
        @save="((redefining = false), emit('rederive', $event))"
        @cancel="redefining = false"
      />
    </template>
    <AnswerArranger
      v-if="question.coded || question.kind === 'choose_all' || question.answers.length > 1"
      :question="question"
      @edit="emit('edit', $event)"
    />
    <p
      v-else
      class="soft"
    >{{ t('codebook.no_answers') }}
      {{ t('arrange.kind') }} <template
        v-if="kindsHere(question).length === 0"
      >{{ t(`topline.kinds.${question.kind}`) }}</template><ChoiceMenu
        v-else
        :model-value="question.kind"
        :items="kindsHere(question).map((value) => ({ value, title: t(`topline.kinds.${value}`) }))"
        :label="t('arrange.kind')"
        small
        @update:model-value="emit('edit', { kind: $event })"
      />
    </p>
    <form v-if="question.coded && !question.derivation" class="acts" @submit.prevent="addAnswer">
      <span class="soft">{{ t('codebook.new_answer') }}</span>
      <v-text-field v-model="code" class="blank" :label="t('arrange.code')" maxlength="100" data-test="new-code" />
      <v-text-field v-model="label" class="blank" :label="t('arrange.label')" maxlength="300" />
      <button type="submit" class="act" data-test="add-answer">{{ t('codebook.add') }}</button>
    </form>
  </section>
</template>

<style scoped>
.panel { height: calc(100vh - 176px); overflow: auto; border-top: 1px solid var(--rule); padding: 8px 4px 30px 0; }
.head { justify-content: space-between; font-size: 17px; margin-bottom: 6px; }
.panel > .v-input { margin-bottom: 12px; }
.blank { flex: 1 1 130px; }
p { margin-bottom: 8px; }
p > .act { margin-left: 10px; }
</style>

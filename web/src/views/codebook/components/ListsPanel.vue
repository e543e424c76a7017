<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import ChangedMeanwhile from '@/components/ChangedMeanwhile.vue'
import type { AnswerList, CodebookQuestion, ListEdit } from '@/api/client'

/** Answer lists that several questions share: defined once, changed in one place. */
const props = defineProps<{ lists: AnswerList[]; questions: CodebookQuestion[] }>()
const emit = defineEmits<{ add: [body: ListEdit]; save: [list: AnswerList, body: ListEdit]; remove: [list: AnswerList] }>()
const { t } = useI18n()
const name = ref('')
const pasted = ref('')
const editing = ref<number | null>(null)
const users = (l: AnswerList) => props.questions.filter((q) => q.listId === l.id)

function start(l: AnswerList | null) {
  editing.value = l?.id ?? 0
  name.value = l?.name ?? ''
  pasted.value = (l?.answers ?? []).map((a) => `${a.code}\t${a.label}`).join('\n')
}
function submit() {
  const l = props.lists.find((x) => x.id === editing.value)
  const missing = new Map((l?.answers ?? []).map((a) => [a.code, a]))
  const answers = pasted.value
    .split('\n')
    .map((line) => line.split('\t'))
    .filter((c) => (c[0] ?? '').trim() !== '')
    .map((c) => {
      const code = (c[0] ?? '').trim()
      const was = missing.get(code)
      return {
        code,
        label: (c[1] ?? code).trim(),
        ...(was?.missing ? { missing: was.missing } : {}),
        ...(was?.score != null ? { score: was.score } : {}),
      }
    })
  const usesTabs = pasted.value.includes('\t')
  const body: ListEdit = usesTabs ? { name: name.value, answers } : { name: name.value, pasted: pasted.value }
  if (l) emit('save', l, body)
  else emit('add', body)
  editing.value = null
}
</script>

<template>
  <section>
    <p class="lead">
      {{ t('lists.lead') }}
    </p>
    <table
      v-if="lists.length"
      class="figures lists"
    >
      <thead><tr><th scope="col">
        {{ t('lists.name') }}
      </th><th
        scope="col"
        class="left"
      >
        {{ t('lists.answers') }}
      </th><th
        scope="col"
        class="left"
      >
        {{ t('lists.used') }}
      </th><th scope="col">
        <span class="visually-hidden">{{ t('studies.actions') }}</span>
      </th></tr></thead>
      <tbody>
        <tr
          v-for="l in lists"
          :key="l.id"
        >
          <th scope="row">
            {{ l.name }}
          </th>
          <td class="left">
            {{ l.answers.map((a) => a.label).join(' · ') }}
          </td>
          <td class="left">
            {{ users(l).map((q) => q.name).join(', ') || '–' }}
          </td>
          <td class="doings">
            <button
              type="button"
              class="act"
              @click="start(l)"
            >
              {{ t('claim.change') }}
            </button> <button
              type="button"
              class="act"
              @click="emit('remove', l)"
            >
              {{ t('claim.delete') }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="acts"><button type="button" class="act" @click="start(null)">{{ t('lists.add') }}</button></p>
    <form v-if="editing !== null" class="edit" @submit.prevent="submit">
      <ChangedMeanwhile :key="editing" :state="lists.find((l) => l.id === editing)?.version" />
      <v-text-field
        v-model="name"
        :label="t('lists.name')"
        maxlength="120"
        required
      />
      <v-textarea
        v-model="pasted"
        :label="t('codebook.labels_hint')"
        rows="7"
        spellcheck="false"
      />
      <p class="acts"><v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="name.trim() === '' || pasted.trim() === ''"
      >{{ t('codebook.apply') }}</v-btn> <button type="button" class="act" @click="editing = null">{{ t('app.cancel') }}</button></p>
    </form>
  </section>
</template>

<style scoped>
.lead { max-width: 640px; margin-bottom: 12px; }
.lists { max-width: 1000px; margin-bottom: 10px; }
.lists td, .lists tbody th { border-bottom: 1px solid var(--hair); padding-top: 6px; padding-bottom: 6px; }
.doings { white-space: nowrap; }
.doings .act { margin-left: 12px; }
.edit { max-width: 520px; display: grid; gap: 10px; margin-top: 10px; }
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { count } from '@/app/format'
import ChangedMeanwhile from '@/components/ChangedMeanwhile.vue'
import { useAnswer } from '@/composables/useAnswer'

import { firstCondition } from '../conditions'
import ConditionEditor from './ConditionEditor.vue'

import type { CodebookQuestion, Condition, Subgroup, SubgroupEdit } from '@/api/client'

/** Named conditions over answers, with how many meet them while they are edited. */
const props = defineProps<{ studyId: number; subgroups: Subgroup[]; questions: CodebookQuestion[] }>()
const emit = defineEmits<{ add: [body: SubgroupEdit]; save: [group: Subgroup, body: SubgroupEdit]; remove: [group: Subgroup] }>()
const { t } = useI18n()
const editing = ref<number | null>(null)
const name = ref('')
const condition = ref<Condition>({ op: 'and', of: [] })

const isEmpty = (c: Condition): boolean =>
  c.op === 'any_of' ? (c.answers ?? []).length === 0 : c.of !== undefined ? c.of.length === 0 || c.of.some(isEmpty) : false
const ready = computed(() => name.value.trim() !== '' && !isEmpty(condition.value))

const asked = () => (editing.value === null || isEmpty(condition.value) ? null : condition.value)
const { answer, settled, error } = useAnswer(`condition/${props.studyId}`, asked,
  (c, signal) => api.countCondition(props.studyId, c, signal), 250)
const n = computed(() => {
  if (error.value) return error.value.message
  return settled.value && answer.value ? t('subgroups.n', { n: count(answer.value.n), of: count(answer.value.everyone) }) : ''
})

function start(g: Subgroup | null) {
  editing.value = g?.id ?? 0
  name.value = g?.name ?? ''
  condition.value = g?.condition ?? { op: 'and', of: [firstCondition(props.questions)] }
}
function submit() {
  const g = props.subgroups.find((x) => x.id === editing.value)
  const body = { name: name.value, condition: condition.value }
  if (g) emit('save', g, body)
  else emit('add', body)
  editing.value = null
}
</script>

<template>
  <section>
    <p class="lead">
      {{ t('subgroups.lead') }}
    </p>
    <table
      v-if="subgroups.length"
      class="figures groups"
      data-test="subgroups"
    >
      <thead><tr><th scope="col">
        {{ t('subgroups.name') }}
      </th><th scope="col">
        n
      </th><th scope="col">
        <span class="visually-hidden">{{ t('studies.actions') }}</span>
      </th></tr></thead>
      <tbody>
        <tr v-for="g in subgroups" :key="g.id">
          <th scope="row"><RouterLink :to="`/studies/${studyId}?of=${g.id}`">{{ g.name }}</RouterLink></th>
          <td>{{ g.n === null || g.everyone === null ? t('subgroups.unknown') : t('subgroups.n',
            { n: count(g.n), of: count(g.everyone) }) }}</td>
          <td class="doings">
            <button
              type="button"
              class="act"
              @click="start(g)"
            >
              {{ t('claim.change') }}
            </button> <button
              type="button"
              class="act"
              @click="emit('remove', g)"
            >
              {{ t('claim.delete') }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="acts"><button type="button" class="act" data-test="add-subgroup" @click="start(null)">{{ t('subgroups.add') }}</button></p>
    <form v-if="editing !== null" class="edit" data-test="subgroup-form" @submit.prevent="ready && submit()">
      <ChangedMeanwhile :key="editing" :state="subgroups.find((g) => g.id === editing)?.version" />
      <v-text-field
        v-model="name"
        class="name"
        :label="t('subgroups.name')"
        maxlength="120"
        required
        data-test="subgroup-name"
      />
      <ConditionEditor v-model="condition" :questions="questions" />
      <p class="soft" role="status" data-test="subgroup-n">{{ n || t('subgroups.pending') }}</p>
      <p class="acts"><v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="!ready"
        data-test="subgroup-save"
      >{{ t('codebook.apply') }}</v-btn> <button type="button" class="act" @click="editing = null">{{ t('app.cancel') }}</button></p>
    </form>
  </section>
</template>

<style scoped>
.lead { max-width: 640px; margin-bottom: 12px; }
.groups { max-width: 720px; margin-bottom: 10px; }
.groups td, .groups tbody th { border-bottom: 1px solid var(--hair); padding-top: 6px; padding-bottom: 6px; }
.doings { white-space: nowrap; }
.doings .act { margin-left: 12px; }
.edit { max-width: 900px; display: grid; gap: 8px; margin-top: 10px; }
.name { max-width: 320px; }
</style>

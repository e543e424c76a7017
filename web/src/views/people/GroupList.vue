<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { AccountGroup } from '@/api/client'

/** People who are given a role together, for who keeps the accounts. */
const { t } = useI18n()
const { data, error, run } = useLoad(() => [0, 'groups'], () => api.groups())
const { error: failed, attempt } = useAttempt(run)
const editing = ref(0)
const name = ref('')
const emails = ref('')
function edit(g: AccountGroup | null) {
  editing.value = g?.id ?? 0
  name.value = g?.name ?? ''
  emails.value = g?.members.map((m) => m.email).join(', ') ?? ''
}
async function keep() {
  const list = emails.value.split(/[\s,;]+/).filter(Boolean)
  if (await attempt(() => api.putGroup(editing.value, name.value, list))) edit(null)
}
</script>

<template>
  <h2>{{ t('people.groups.title') }}</h2>
  <ErrorNote v-if="error ?? failed" :error="(error ?? failed)!" />
  <table v-if="data?.groups.length" class="figures" data-test="groups">
    <tbody>
      <tr v-for="g in data.groups" :key="g.id">
        <th scope="row">{{ g.name }}</th>
        <td class="soft" :title="g.members.map((m) => m.name).join(', ')">
          {{ t('people.groups.members', { n: g.members.length }, g.members.length) }}
        </td>
        <td>
          <button type="button" class="act" :aria-label="`${t('people.groups.change')}: ${g.name}`" @click="edit(g)">{{
            t('people.groups.change')
          }}</button>
        </td>
        <td>
          <button
            type="button"
            class="act"
            :aria-label="`${t('people.groups.delete')}: ${g.name}`"
            @click="attempt(() => api.deleteGroup(g.id))"
          >{{ t('people.groups.delete') }}</button>
        </td>
      </tr>
    </tbody>
  </table>
  <form class="make" @submit.prevent="keep">
    <v-text-field v-model="name"
:label="t('people.groups.name')"
required
maxlength="120"
data-test="group-name" />
    <v-text-field v-model="emails" :label="t('people.groups.emails')" data-test="group-emails" />
    <v-btn type="submit" variant="flat" color="primary" data-test="group-keep">{{
      t(editing ? 'people.groups.keep' : 'people.groups.make')
    }}</v-btn>
  </form>
</template>

<style scoped>
h2 { font-size: 20px; margin: 26px 0 8px; }
table { max-width: 900px; margin: 8px 0; }
th { font-weight: 400; }
.make { display: grid; gap: 12px; max-width: 380px; margin-top: 12px; }
.v-btn { margin-top: 14px; justify-self: start; }
</style>

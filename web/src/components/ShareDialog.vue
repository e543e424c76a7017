<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'

import ErrorNote from './ErrorNote.vue'
import LinkList from './LinkList.vue'
import RoleChoice from './RoleChoice.vue'

import type { Account, AccountGroup, Members, Role, Shared } from '@/api/client'

/** Who may do what with a study, or a set of the shelf. */
const props = defineProps<{ of: Shared }>()
const shown = defineModel<boolean>({ required: true })
const { t } = useI18n()
const members = ref<Members | null>(null)
const accounts = ref<Account[]>([])
const groups = ref<AccountGroup[]>([])
/** Those that have no role yet. */
const further = computed(() => {
  const there = members.value?.groups ?? []
  return groups.value.filter((g) => !there.some((r) => r.group === g.id)).map((g) => ({ value: g.id, title: g.name }))
})
const email = ref('')
const role = ref<Role>('analyst')
const { error, attempt } = useAttempt()
watch(shown, async (is) => {
  if (!is) return
  const found = await attempt(() => Promise.all([api.members(props.of), api.accounts(), api.groups()]))
  if (found) [members.value, accounts.value, groups.value] = [found.value[0], found.value[1].accounts, found.value[2].groups]
}, { immediate: true })
async function share(whom: { email?: string; group?: number }, as: Role | '') {
  const done = await attempt(() => api.share(props.of, { ...whom, role: as }))
  if (done) members.value = done.value
  return done
}
async function add() {
  if (await share({ email: email.value }, role.value)) email.value = ''
}
const named = (roles: readonly Role[]) => roles.map((value) => ({ value: value as Role | '', title: t(`people.roles.${value}`) }))
</script>

<template>
  <v-dialog v-model="shown" max-width="720" :aria-label="t('people.share_title', { name: of.name })">
    <div class="share" data-test="share-dialog">
      <h2>{{ t('people.share_title', { name: of.name }) }}</h2>
      <ErrorNote v-if="error" :error="error" />
      <template v-if="members">
        <table class="figures">
          <tbody>
            <tr v-for="m in members.members" :key="m.email">
              <th scope="row">{{ m.name }} <span class="soft">{{ m.email }}</span></th>
              <td><RoleChoice :role="m.role" :name="m.name" :members="members" person @choose="share({ email: m.email }, $event)" /></td>
            </tr>
            <tr v-for="g in members.groups" :key="g.group">
              <th scope="row">{{ g.name }} <span class="soft">{{ t('people.group') }}</span></th>
              <td><RoleChoice :role="g.role" :name="g.name" :members="members" @choose="share({ group: g.group }, $event)" /></td>
            </tr>
            <tr>
              <th scope="row">{{ t('people.everybody') }}</th>
              <td data-test="share-everybody">
                <RoleChoice :role="members.everybody" :name="t('people.everybody')" :members="members" @choose="share({}, $event)" />
              </td>
            </tr>
          </tbody>
        </table>
        <form v-if="members.owns" class="add" @submit.prevent="add">
          <v-text-field v-model="email"
:label="t('people.email')"
type="email"
required
list="share-accounts"
data-test="share-email" />
          <datalist id="share-accounts"><option v-for="a in accounts" :key="a.email" :value="a.email">{{ a.name }}</option></datalist>
          <v-select v-model="role"
:items="named(members.roles)"
:aria-label="t('people.role')"
data-test="share-role"
class="role" />
          <button type="submit" class="act" data-test="share-add">{{ t('people.add') }}</button>
        </form>
        <v-select
          v-if="members.owns && further.length"
          :model-value="undefined"
          :items="further"
          :label="t('people.group')"
          class="group"
          data-test="share-group"
          @update:model-value="$event && share({ group: $event }, role === 'owner' ? 'editor' : role)"
        />
        <p class="soft small">{{ t('people.roles_mean') }}</p>
        <LinkList v-if="members.owns && of.kind === 'study'" :study="of.id" />
        <p v-if="members.owns && of.kind === 'study'"><RouterLink :to="`/studies/${of.id}/trail`">{{ t('trail.title') }}</RouterLink></p>
      </template>
      <button type="button" class="act" @click="shown = false">{{ t('app.close') }}</button>
    </div>
  </v-dialog>
</template>

<style scoped>
.share { background: var(--sheet); padding: 22px 26px; }
h2 { font-size: 20px; margin-bottom: 12px; }
td .v-select { min-width: 120px; }
.role { max-width: 130px; }
.group { max-width: 240px; }
th { font-weight: 500; }
.add { display: flex; flex-wrap: wrap; gap: 8px 10px; align-items: center; margin: 14px 0 6px; }
.add .v-text-field:not(.role) { min-width: 240px; }
</style>

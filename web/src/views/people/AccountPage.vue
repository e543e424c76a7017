<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { moment } from '@/app/format'
import { hasPasskeys, signOut, who } from '@/app/who'
import ErrorNote from '@/components/ErrorNote.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import GroupList from './GroupList.vue'
import PasskeyList from './PasskeyList.vue'
import TokenList from './TokenList.vue'

/** One's own account: where one has signed in, and, for who keeps the accounts, whom to invite. */
const { t } = useI18n()
const { data, error, run } = useLoad(() => [0, 'sessions'], () => api.sessions())
const { error: failed, attempt } = useAttempt(run)
const { data: known, error: unknown, run: again } = useLoad(() => [0, 'accounts'], () => api.accounts())
const { error: unclosed, attempt: attemptClose } = useAttempt(again)
const present = ref('')
const fresh = ref('')
const changed = ref(false)
const { error: unchanged, attempt: attemptChange } = useAttempt(run)
async function change() {
  changed.value = (await attemptChange(() => api.changePassword(present.value, fresh.value))) !== null
  if (changed.value) present.value = fresh.value = ''
}
const email = ref('')
const name = ref('')
const link = ref('')
const { error: uninvited, attempt: attemptInvite } = useAttempt()
async function invite() {
  const done = await attemptInvite(() => api.invite(email.value, name.value))
  if (!done) return
  link.value = location.origin + done.value.path
  email.value = name.value = ''
}
</script>

<template>
  <PlaceHead>
    <h1>{{ who?.name ?? t('people.account') }}</h1>
    <span v-if="who" class="context">{{ who.email }}</span>
  </PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <p v-if="!who">{{ t('people.nobody_signs_in') }}</p>
    <template v-else>
      <button type="button" class="act" data-test="sign-out" @click="signOut()">{{ t('people.sign_out') }}</button>
      <h2>{{ t('people.sessions') }}</h2>
      <ErrorNote v-if="error ?? failed" :error="(error ?? failed)!" />
      <table v-if="data" class="figures sessions">
        <thead><tr><th scope="col">{{ t('people.browser') }}</th><th scope="col">{{ t('people.from') }}</th><th scope="col">{{ t('people.seen') }}</th><th scope="col"><span class="visually-hidden">{{ t('studies.actions') }}</span></th></tr></thead>
        <tbody>
          <tr v-for="s in data.sessions" :key="s.id">
            <th scope="row" class="agent">{{ s.agent || t('people.unknown') }}</th>
            <td>{{ s.address }}</td>
            <td>{{ moment(s.seen) }}</td>
            <td>
              <span v-if="s.this" class="soft">{{ t('people.this') }}</span>
              <button v-else type="button" class="act" @click="attempt(() => api.endSession(s.id))">{{ t('people.end') }}</button>
            </td>
          </tr>
        </tbody>
      </table>
      <h2>{{ t('people.change_password') }}</h2>
      <form class="invite" @submit.prevent="change">
        <v-text-field id="present-password"
v-model="present"
:label="t('people.present')"
type="password"
autocomplete="current-password"
required />
        <v-text-field id="new-password"
v-model="fresh"
:label="t('people.new')"
type="password"
autocomplete="new-password"
required />
        <v-btn type="submit" variant="flat" color="primary" data-test="change-password">{{ t('people.change') }}</v-btn>
      </form>
      <ErrorNote v-if="unchanged" :error="unchanged" />
      <p v-if="changed" role="status" data-test="password-changed">{{ t('people.changed') }}</p>
      <PasskeyList v-if="hasPasskeys" />
      <TokenList />
      <template v-if="who.administrator">
        <h2>{{ t('people.accounts') }}</h2>
        <ErrorNote v-if="unclosed ?? unknown" :error="(unclosed ?? unknown)!" />
        <table v-if="known" class="figures sessions">
          <tbody>
            <tr v-for="a in known.accounts" :key="a.email">
              <th scope="row" class="agent">{{ a.name }} <span class="soft">{{ a.email }}</span></th>
              <td class="soft">{{ a.administrator ? t('people.keeps') : '' }}</td>
              <td><button v-if="a.email !== who.email"
type="button"
class="act"
:aria-label="t('people.close_of', { name: a.name })"
@click="attemptClose(() => api.closeAccount(a.email, true))">{{ t('people.close') }}</button></td>
            </tr>
          </tbody>
        </table>
        <p><RouterLink to="/account/trail">{{ t('trail.of_accounts') }}</RouterLink></p>
        <GroupList />
        <h2>{{ t('people.invite') }}</h2>
        <form class="invite" @submit.prevent="invite">
          <v-text-field v-model="name"
:label="t('people.name')"
required
maxlength="120"
data-test="invite-name" />
          <v-text-field v-model="email"
:label="t('people.email')"
type="email"
required
data-test="invite-email" />
          <v-btn type="submit" variant="flat" color="primary" data-test="invite">{{ t('people.make_link') }}</v-btn>
        </form>
        <ErrorNote v-if="uninvited" :error="uninvited" />
        <p v-if="link" role="status">{{ t('people.send_link') }} <code data-test="invite-link">{{ link }}</code></p>
      </template>
    </template>
  </main>
</template>

<style scoped>
h2 { font-size: 20px; margin: 26px 0 8px; }
.sessions { max-width: 900px; }
.agent { font-weight: 400; max-width: 420px; overflow-wrap: anywhere; }
.invite { display: grid; gap: 12px; max-width: 380px; }
.v-btn { margin-top: 14px; justify-self: start; }
.invite + p, p[role='status'] { margin-top: 14px; }
code { overflow-wrap: anywhere; }
</style>

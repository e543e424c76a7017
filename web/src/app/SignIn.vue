<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { api } from '@/api/client'
import ErrorNote from '@/components/ErrorNote.vue'
import TallyMark from '@/components/TallyMark.vue'
import { useAttempt } from '@/composables/useAttempt'

import { enterByPasskey, isStopped, knowsPasskeys } from './passkeys'
import { hasPasskeys, institution, signedIn, who } from './who'

/** Asks who it is; what stands behind it stays as it was. */
const { t } = useI18n()
const email = ref(who.value?.email ?? '')
const password = ref('')
const busy = ref(false)
/** Why the institution's word did not do; where one was is where one comes back. */
const route = useRoute()
const refused = computed(() => ['away', 'unasked', 'no_account', 'unverified'].find((why) => why === route.query.refused))
const to = computed(() => (refused.value ? '/studies' : route.fullPath))
/** At once, not when the field is seen: who types already keeps his place. */
const field = ref<{ focus: () => void } | null>(null)
onMounted(() => field.value?.focus())
const { error, attempt } = useAttempt()
async function signIn() {
  busy.value = true
  const done = await attempt(() => api.signIn(email.value, password.value))
  busy.value = false
  password.value = ''
  if (done) signedIn(done.value)
}
async function byPasskey() {
  const done = await attempt(enterByPasskey)
  if (done) signedIn(done.value)
}
</script>

<template>
  <main id="page" class="sign-in" tabindex="-1" data-test="sign-in">
    <TallyMark />
    <h1>{{ t('people.sign_in') }}</h1>
    <form @submit.prevent="signIn">
      <v-text-field id="sign-in-email"
ref="field"
v-model="email"
:label="t('people.email')"
type="email"
autocomplete="username"
required />
      <v-text-field id="sign-in-password"
v-model="password"
:label="t('people.password')"
type="password"
autocomplete="current-password"
required />
      <p v-if="error && isStopped(error)" role="alert">{{ t('people.passkeys.stopped') }}</p>
      <ErrorNote v-else-if="error" :error="error" />
      <p v-else-if="refused" role="alert" data-test="refused">{{ t(`people.refused.${refused}`, { name: institution }) }}</p>
      <v-btn type="submit" variant="flat" color="primary" :disabled="busy">{{ t('people.sign_in') }}</v-btn>
    </form>
    <p v-if="hasPasskeys && knowsPasskeys">
      <button type="button" class="act" data-test="passkey" @click="byPasskey">{{ t('people.passkeys.by') }}</button>
    </p>
    <p v-if="institution">
      <a :href="api.institution(to)" data-test="institution">{{ t('people.by_institution', { name: institution }) }}</a>
    </p>
    <p class="soft small">{{ t('people.no_account') }}</p>
  </main>
</template>

<style scoped>
.sign-in { max-width: 400px; margin: 12vh auto 0; padding: 0 24px; }
h1 { font-size: 27px; margin: 14px 0 18px; }
form { display: grid; gap: 12px; }
.v-btn { margin-top: 18px; justify-self: start; }
p { margin-top: 22px; }
</style>

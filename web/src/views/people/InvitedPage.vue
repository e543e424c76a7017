<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import { api } from '@/api/client'
import { signedIn } from '@/app/who'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'

import type { Account } from '@/api/client'

/** Whoever was invited chooses a password, and is in. */
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const token = String(route.params.token)
const invited = ref<Account | null>(null)
const over = ref(false)
const password = ref('')
const { error, attempt } = useAttempt()
void api.invitation(token).then((a) => (invited.value = a), () => (over.value = true))
async function accept() {
  const done = await attempt(() => api.accept(token, password.value))
  if (!done) return
  signedIn(done.value)
  void router.replace('/studies')
}
</script>

<template>
  <main id="page" class="sheet invited" tabindex="-1">
    <p v-if="over" data-test="invitation-over">{{ t('people.invitation_over') }}</p>
    <form v-else-if="invited" @submit.prevent="accept">
      <h1>{{ t('people.welcome', { name: invited.name }) }}</h1>
      <p class="soft">{{ t('people.choose_password', { email: invited.email }) }}</p>
      <v-text-field id="invited-password"
v-model="password"
:label="t('people.password')"
type="password"
autocomplete="new-password"
required />
      <ErrorNote v-if="error" :error="error" />
      <v-btn type="submit" variant="flat" color="primary">{{ t('people.begin') }}</v-btn>
    </form>
  </main>
</template>

<style scoped>
.invited { max-width: 460px; }
form { display: grid; gap: 6px; padding-top: 40px; }
h1 { font-size: 27px; }
.v-btn { margin-top: 16px; justify-self: start; }
</style>

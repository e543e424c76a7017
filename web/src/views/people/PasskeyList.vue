<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { moment } from '@/app/format'
import { isStopped, knowsPasskeys, makePasskey } from '@/app/passkeys'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

/** Devices that sign one in without a password. */
const { t } = useI18n()
const { data, error, run } = useLoad(() => [0, 'passkeys'], () => api.passkeys())
const { error: failed, attempt } = useAttempt(run)
const name = ref('')
async function make() {
  if (await attempt(() => makePasskey(name.value))) name.value = ''
}
</script>

<template>
  <h2>{{ t('people.passkeys.title') }}</h2>
  <p class="soft small">{{ t('people.passkeys.note') }}</p>
  <ErrorNote v-if="error" :error="error" />
  <p v-if="failed && isStopped(failed)" role="alert">{{ t('people.passkeys.stopped') }}</p>
  <ErrorNote v-else-if="failed" :error="failed" />
  <table v-if="data?.passkeys.length" class="figures" data-test="passkeys">
    <tbody>
      <tr v-for="k in data.passkeys" :key="k.id">
        <th scope="row">{{ k.name }}</th>
        <td class="soft">{{ t('people.seen') }}: {{ k.seen ? moment(k.seen) : t('people.tokens.never') }}</td>
        <td><button type="button" class="act" @click="attempt(() => api.endPasskey(k.id))">{{ t('people.end') }}</button></td>
      </tr>
    </tbody>
  </table>
  <form v-if="knowsPasskeys" class="make" @submit.prevent="make">
    <v-text-field v-model="name"
:label="t('people.passkeys.name')"
required
maxlength="120"
data-test="passkey-name" />
    <v-btn type="submit" variant="flat" color="primary" data-test="passkey-make">{{ t('people.passkeys.make') }}</v-btn>
  </form>
</template>

<style scoped>
h2 { font-size: 20px; margin: 26px 0 8px; }
table { max-width: 900px; margin: 8px 0; }
th { font-weight: 400; }
.make { display: grid; gap: 12px; max-width: 380px; margin-top: 12px; }
.v-btn { margin-top: 14px; justify-self: start; }
</style>

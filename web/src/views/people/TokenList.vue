<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { moment } from '@/app/format'
import ErrorNote from '@/components/ErrorNote.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

import type { TokenScope } from '@/api/client'

/** Tokens with which scripts act for one. */
const { t } = useI18n()
const { data, error, run } = useLoad(() => [0, 'tokens'], () => api.tokens())
const { error: failed, attempt } = useAttempt(run)
const name = ref('')
const scope = ref<TokenScope>('see')
const days = ref('90')
const secret = ref('')
const scopes = computed(() => (data.value?.scopes ?? []).map((value) => ({ value, title: t(`people.scopes.${value}`) })))
async function make() {
  const done = await attempt(() => api.addToken(name.value, scope.value, Number(days.value)))
  secret.value = done?.value.secret ?? ''
  if (done) name.value = ''
}
</script>

<template>
  <h2>{{ t('people.tokens.title') }}</h2>
  <p class="soft small">{{ t('people.tokens.note') }}</p>
  <ErrorNote v-if="error ?? failed" :error="(error ?? failed)!" />
  <table v-if="data?.tokens.length" class="figures tokens">
    <tbody>
      <tr v-for="k in data.tokens" :key="k.id">
        <th scope="row">{{ k.name }}</th>
        <td class="soft">{{ t(`people.scopes.${k.scope}`) }}</td>
        <td class="soft">{{ k.expired ? t('people.tokens.expired') : `${t('people.tokens.until')} ${moment(k.expires)}` }}</td>
        <td class="soft">{{ t('people.seen') }}: {{ k.seen ? moment(k.seen) : t('people.tokens.never') }}</td>
        <td><button type="button" class="act" @click="attempt(() => api.endToken(k.id))">{{ t('people.end') }}</button></td>
      </tr>
    </tbody>
  </table>
  <form class="make" @submit.prevent="make">
    <v-text-field v-model="name"
:label="t('people.tokens.for')"
required
maxlength="120"
data-test="token-name" />
    <v-select v-if="data" v-model="scope" :items="scopes" :label="t('people.tokens.may')" />
    <v-text-field v-model="days"
:label="t('people.tokens.days')"
type="number"
min="1"
max="366"
required />
    <v-btn type="submit" variant="flat" color="primary" data-test="token-make">{{ t('people.tokens.make') }}</v-btn>
  </form>
  <p v-if="secret" role="status">{{ t('people.tokens.once') }} <code data-test="token-secret">{{ secret }}</code></p>
</template>

<style scoped>
h2 { font-size: 20px; margin: 26px 0 8px; }
.tokens { max-width: 900px; margin: 8px 0; }
.tokens th { font-weight: 400; }
.make { display: grid; gap: 12px; max-width: 380px; margin-top: 12px; }
.v-btn { margin-top: 14px; justify-self: start; }
p[role='status'] { margin-top: 14px; }
code { overflow-wrap: anywhere; }
</style>

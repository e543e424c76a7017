<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'

import { api } from '@/api/client'
import ErrorNote from '@/components/ErrorNote.vue'
import SentenceBlank from '@/components/SentenceBlank.vue'
import { useAttempt } from '@/composables/useAttempt'

import type { Quick } from '@/api/client'

/** A study of the typed counts, with what is asked of them. */
const props = defineProps<{ body: Quick }>()
const { t } = useI18n()
const router = useRouter()
const name = ref('')
const { error, attempt } = useAttempt()
async function keep() {
  if (!name.value.trim()) return
  const made = await attempt(() => api.keepQuick({ name: name.value.trim(), ...props.body }))
  if (made) await router.push(`/studies/${made.value.id}`)
}
</script>

<template>
  <form @submit.prevent="keep">
    <p class="sentence">{{ t('quick.keep_as') }} <SentenceBlank
      v-model="name"
      :label="t('intake.name_hint')"
      :placeholder="t('intake.name_hint')"
      :maxlength="120"
      required
      test="keep-name"
    />.
      <v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="!name.trim()"
        data-test="keep"
      >{{ t('quick.keep_go') }}</v-btn></p>
    <p class="soft small">{{ t('quick.keep_notes') }}</p>
    <ErrorNote v-if="error" :error="error" />
  </form>
</template>

<style scoped>
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 800px; margin-bottom: 4px; }
</style>

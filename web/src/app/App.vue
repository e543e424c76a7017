<script setup lang="ts">
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { useSession } from './session'
import { useKeys } from '@/composables/useKeys'
import KeySheet from './KeySheet.vue'
import PlaceRail from './PlaceRail.vue'

const { t } = useI18n()
const route = useRoute()
const session = useSession()
const keysShown = ref(false)
useKeys({ '?': () => (keysShown.value = true) })

const busyUndo = ref(false)
async function runUndo() {
  const pending = session.undo
  if (!pending) return
  busyUndo.value = true
  try {
    await pending.run()
  } finally {
    busyUndo.value = false
    session.undo = null
  }
}

watch(() => route.path, () => document.getElementById('page')?.focus({ preventScroll: true }), { flush: 'post' })
</script>

<template>
  <v-app>
    <a class="skip" href="#page">{{ t('app.skip') }}</a>
    <div class="frame">
      <PlaceRail @keys="keysShown = true" />
      <div class="place"><RouterView /></div>
    </div>
    <KeySheet v-model="keysShown" />
    <v-snackbar
      :model-value="session.undo !== null"
      :timeout="12000"
      location="bottom start"
      color="surface"
      @update:model-value="session.undo = null"
    >
      {{ session.undo?.text }}
      <template #actions>
        <v-btn color="primary" :loading="busyUndo" data-test="undo" @click="runUndo">{{ t('app.undo') }}</v-btn>
        <v-btn @click="session.undo = null">{{ t('app.close') }}</v-btn>
      </template>
    </v-snackbar>
  </v-app>
</template>

<style scoped>
.frame { display: grid; grid-template-columns: 96px minmax(0, 1fr); min-height: 100vh; }
.place { min-width: 0; }
@media (max-width: 640px) { .frame { grid-template-columns: minmax(0, 1fr); grid-template-rows: auto 1fr; } }
.skip { position: fixed; left: -999px; top: 0; z-index: 2000; background: var(--sheet); padding: 8px 14px; }
.skip:focus { left: 0; }
</style>

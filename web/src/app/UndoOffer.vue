<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { useSession } from './session'

/** Offers to take back what was just done. */
const { t } = useI18n()
const session = useSession()
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
</script>

<template>
  <v-layout class="offer">
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
  </v-layout>
</template>

<style scoped>
.offer { display: contents; }
</style>

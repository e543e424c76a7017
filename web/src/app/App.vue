<script setup lang="ts">
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { lazily } from './later'
import NotFetched from './NotFetched.vue'
import { notFetched } from './router'
import { useSession } from './session'
import { useKeys } from '@/composables/useKeys'
import PlaceRail from './PlaceRail.vue'

/** What is seldom needed is fetched when it is. */
const KeySheet = lazily(() => import('./KeySheet.vue'))
const UndoOffer = lazily(() => import('./UndoOffer.vue'))

const { t } = useI18n()
const route = useRoute()
const session = useSession()
const keysShown = ref(false)
useKeys({ '?': () => (keysShown.value = true) })

watch(() => route.path, () => document.getElementById('page')?.focus({ preventScroll: true }), { flush: 'post' })
</script>

<template>
  <div class="application">
    <a class="skip" href="#page">{{ t('app.skip') }}</a>
    <div class="frame">
      <PlaceRail @keys="keysShown = true" />
      <div class="place"><main v-if="notFetched" id="page" class="sheet" tabindex="-1"><NotFetched /></main><RouterView v-else /></div>
    </div>
    <KeySheet v-if="keysShown" v-model="keysShown" />
    <UndoOffer v-if="session.undo" />
  </div>
</template>

<style scoped>
.frame { display: grid; grid-template-columns: 96px minmax(0, 1fr); min-height: 100vh; }
.place { min-width: 0; }
@media (max-width: 640px) { .frame { grid-template-columns: minmax(0, 1fr); grid-template-rows: auto 1fr; } }
.skip { position: fixed; left: -999px; top: 0; z-index: 2000; background: var(--sheet); padding: 8px 14px; }
.skip:focus { left: 0; }
</style>

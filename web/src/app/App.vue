<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { isAway, isSignedOut } from '@/api/client'
import { whenIdle } from './idle'
import { lazily } from './later'
import { begin } from './live'
import NotFetched from './NotFetched.vue'
import { notFetched } from './router'
import { guideShown } from './guide'
import { useSession } from './session'
import { isLooking, who } from './who'
import { useKeys } from '@/composables/useKeys'
import PlaceRail from './PlaceRail.vue'

/** What is seldom needed is fetched when it is. */
const KeySheet = lazily(() => import('./KeySheet.vue'))
const GuidePanel = lazily(() => import('./GuidePanel.vue'))
const UndoOffer = lazily(() => import('./UndoOffer.vue'))
const SignIn = lazily(() => import('./SignIn.vue'))

const { t } = useI18n()
const route = useRoute()
const session = useSession()
const keysShown = ref(false)
/** Somebody has been in, so that what stands behind the question who it is may stay. */
const known = ref(false)
watch(() => who.value !== null || !isSignedOut.value, (is) => (known.value ||= is), { immediate: true })
onMounted(() => setTimeout(() => whenIdle(() => begin()), 800))
useKeys({ '?': () => (keysShown.value = true), H: () => (guideShown.value = !guideShown.value) })

watch(() => route.path, () => document.getElementById('page')?.focus({ preventScroll: true }), { flush: 'post' })
</script>

<template>
  <div class="application">
    <a class="skip" href="#page">{{ t('app.skip') }}</a>
    <p v-if="isAway" class="away" role="status" data-test="away">{{ t('app.away') }}</p>
    <SignIn v-if="isSignedOut && !route.meta.open" />
    <div v-show="!isSignedOut || route.meta.open" class="frame" :class="{ guided: guideShown }">
      <PlaceRail v-if="!isLooking" @keys="keysShown = true" />
      <aside v-else class="looking small soft" :aria-label="t('people.links.looking')" data-test="looking">
        {{ t('people.links.looking') }}
      </aside>
      <div class="place"><main v-if="notFetched" id="page" class="sheet" tabindex="-1"><NotFetched /></main><RouterView v-else-if="known || !isSignedOut || route.meta.open" /></div>
      <GuidePanel v-if="guideShown" />
    </div>
    <KeySheet v-if="keysShown" v-model="keysShown" />
    <UndoOffer v-if="session.undo" />
  </div>
</template>

<style scoped>
.frame { display: grid; grid-template-columns: 96px minmax(0, 1fr); min-height: 100vh; }
.place { min-width: 0; }
.guided { grid-template-columns: 96px minmax(0, 1fr) 360px; }
/* Beside the guide the notes stand below what they speak of. */
@media (max-width: 1500px) { .guided :deep(.beside) { grid-template-columns: minmax(0, 1fr); } .guided :deep(.beside > .margin) { border-left: 0; padding: 6px 34px 0 78px; } }
@media (max-width: 900px) { .guided { grid-template-columns: 96px minmax(0, 1fr); } }
@media (max-width: 640px) { .frame, .guided { grid-template-columns: minmax(0, 1fr); grid-template-rows: auto 1fr; } }
.looking { padding: 14px 10px; }
.away { position: sticky; top: 0; z-index: 40; padding: 7px 28px; background: var(--ink); color: var(--paper); font-size: 14px; }
.skip { position: fixed; left: -999px; top: 0; z-index: 2000; background: var(--sheet); padding: 8px 14px; }
.skip:focus { left: 0; }
</style>

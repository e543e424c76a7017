<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'

import ErrorNote from '@/components/ErrorNote.vue'
import GuideList from '@/components/GuideList.vue'
import HowToText from '@/components/HowToText.vue'
import PlaceHead from '@/components/PlaceHead.vue'
import { useGuide } from '@/composables/useGuide'

/** The guide on pages of its own, one a how-to. */
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const { pages, error } = useGuide()
const page = computed(() => pages.value.find((p) => p.name === route.params.page))
const at = computed(() => pages.value.findIndex((p) => p === page.value))
const next = computed(() => (at.value < 0 ? undefined : pages.value[at.value + 1]))
</script>

<template>
  <PlaceHead><h1><RouterLink v-if="page" to="/guide" class="up">{{ t('guide.title') }}</RouterLink><template v-else>{{ t('guide.title') }}</template></h1></PlaceHead>
  <main id="page" class="sheet" tabindex="-1">
    <ErrorNote v-if="error" :error="error" />
    <HowToText v-if="page" :page="page" class="page" />
    <p v-if="next"><RouterLink :to="`/guide/${next.name}`">{{ t('guide.next', { title: next.title }) }}</RouterLink></p>
    <div v-if="!page" class="list"><GuideList @chosen="router.push(`/guide/${$event}`)" /></div>
  </main>
</template>

<style scoped>
.page { max-width: 860px; }
.list { max-width: 520px; }
.up { color: inherit; text-decoration: none; }
.up:hover { text-decoration: underline; }
</style>

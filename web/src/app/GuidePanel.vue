<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'

import ErrorNote from '@/components/ErrorNote.vue'
import GuideList from '@/components/GuideList.vue'
import HowToText from '@/components/HowToText.vue'
import { useGuide } from '@/composables/useGuide'

import { guideShown } from './guide'

/** The guide beside the page, open at what is usually asked there. */
const { t } = useI18n()
const { pages, here, error } = useGuide()
const name = ref(here.value)
watch(here, (now) => (name.value = now))
const page = computed(() => pages.value.find((p) => p.name === name.value))
const panel = useTemplateRef<HTMLElement>('panel')
watch(panel, (p) => p?.focus({ preventScroll: true }))
</script>

<template>
  <aside
    ref="panel"
    class="guide"
    tabindex="-1"
    :aria-label="t('guide.title')"
    data-test="guide-panel"
    @keydown.esc="guideShown = false"
  >
    <p class="head">
      <button v-if="page" type="button" class="act" data-test="guide-all" @click="name = ''">{{ t('guide.all') }}</button>
      <b v-else>{{ t('guide.title') }}</b>
      <RouterLink :to="page ? `/guide/${page.name}` : '/guide'" @click="guideShown = false">{{ t('guide.alone') }}</RouterLink>
      <button type="button" class="act" data-test="guide-close" @click="guideShown = false">{{ t('app.close') }}</button>
    </p>
    <ErrorNote v-if="error" :error="error" />
    <HowToText v-if="page" :page="page" />
    <GuideList v-else @chosen="name = $event" />
  </aside>
</template>

<style scoped>
.guide {
  position: sticky;
  top: 0;
  height: 100vh;
  box-sizing: border-box;
  overflow-y: auto;
  border-left: 1px solid var(--rule);
  background: var(--sheet);
  padding: 12px 22px 40px;
  outline: none;
}
.head { display: flex; gap: 18px; align-items: baseline; font-size: 14px; margin-bottom: 16px; }
.head > :last-child { margin-left: auto; }
@media (max-width: 900px) { .guide { position: fixed; inset: 0; z-index: 30; } }
@media print { .guide { display: none; } }
</style>

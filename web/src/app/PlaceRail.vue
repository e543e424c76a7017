<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import TallyMark from '@/components/TallyMark.vue'

import { guideShown } from './guide'
import { useSession } from './session'
import { switchTheme, theme } from './theme'
import { who } from './who'

defineEmits<{ keys: [] }>()
const guide = () => (guideShown.value = !guideShown.value && route.meta.place !== 'guide')
const { t } = useI18n()
const route = useRoute()
const session = useSession()

const places = computed(() => {
  const list = [
    { name: 'studies', to: '/studies' },
    { name: 'intake', to: '/intake' },
  ]
  const shares = { name: 'shares', to: '/shares' }
  if (session.studyId === null) return [...list, shares]
  return [
    ...list,
    { name: 'codebook', to: `/studies/${session.studyId}/codebook` },
    { name: 'topline', to: `/studies/${session.studyId}` },
    shares,
    { name: 'claims', to: `/studies/${session.studyId}/claims` },
    { name: 'tables', to: `/studies/${session.studyId}/tables` },
    { name: 'report', to: `/studies/${session.studyId}/report` },
  ]
})

</script>

<template>
  <nav class="rail" :aria-label="t('app.name')">
    <RouterLink to="/studies" class="home" :aria-label="t('app.name')"><TallyMark /></RouterLink>
    <RouterLink
      v-for="p in places"
      :key="p.name"
      :to="p.to"
      class="to"
      :class="{ on: route.meta.place === p.name }"
      :aria-current="route.meta.place === p.name ? 'page' : undefined"
    >
      {{ t(`places.${p.name}`) }}
    </RouterLink>
    <span class="gap" />
    <RouterLink
      v-if="who"
      to="/account"
      class="to"
      data-test="account"
      :class="{ on: route.meta.place === 'account' }"
      :aria-current="route.meta.place === 'account' ? 'page' : undefined"
    >{{ who.name }}</RouterLink>
    <RouterLink
      to="/quick"
      class="to"
      :class="{ on: route.meta.place === 'quick' }"
      :aria-current="route.meta.place === 'quick' ? 'page' : undefined"
    >{{ t('places.quick') }}</RouterLink>
    <button
      type="button"
      class="to"
      data-test="theme"
      @click="switchTheme"
    >{{ theme === 'night' ? t('app.paper') : t('app.night') }}</button>
    <a
      class="to"
      href="/guide"
      :class="{ on: guideShown || route.meta.place === 'guide' }"
      data-test="guide"
      @click.exact.prevent="guide"
    >{{ t('app.guide') }}</a>
    <button type="button" class="to" @click="$emit('keys')">{{ t('app.keys') }} <kbd>?</kbd></button>
  </nav>
</template>

<style scoped>
.rail {
  position: sticky;
  top: 0;
  height: 100vh;
  border-right: 1px solid var(--rule);
  padding: 14px 0 16px;
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.home {
  display: block;
  margin: 0 auto 16px;
  color: var(--ink);
}
.to {
  display: block;
  width: 100%;
  text-align: left;
  padding: 9px 6px 9px 17px;
  color: var(--soft);
  text-decoration: none;
  font: inherit;
  font-size: 14.5px;
  background: none;
  border: 0;
  border-left: 3px solid transparent;
  cursor: pointer;
}
.to { overflow-wrap: anywhere; }
.to:hover {
  color: var(--ink);
}
.to.on {
  color: var(--ink);
  font-weight: 650;
  border-left-color: var(--teal);
}
.gap {
  flex: 1;
}
@media (max-width: 640px) {
  .rail { position: static; height: auto; flex-flow: row wrap; padding: 4px 8px; border-right: 0; border-bottom: 1px solid var(--rule); }
  .home { margin: 2px 8px 0 4px; }
  .to { width: auto; padding: 8px 7px; border-left: 0; border-bottom: 3px solid transparent; }
  .to.on { border-bottom-color: var(--teal); }
  kbd { display: none; }
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'

import { lazily } from '@/app/later'
import { whenIdle } from '@/app/idle'
import { useKeys } from '@/composables/useKeys'

import DesignHead from './DesignHead.vue'
import WhoIsHere from './WhoIsHere.vue'

/** The line on top of every place: its title, what it holds, and the quick-find, which is
 * fetched once the place itself is there, or when it is called for. */
const { t } = useI18n()
const route = useRoute()
const study = computed(() => Number(route.params.study))
const QuickFind = lazily(() => import('./QuickFind.vue'))
const wanted = ref(false)
const called = ref(false)
function call() {
  called.value = true
  wanted.value = true
}
const find = ref<{ focus: () => void } | null>(null)
useKeys({ '/': () => (find.value ? find.value.focus() : call()) })
onMounted(() => setTimeout(() => whenIdle(() => (wanted.value = true)), 300))
</script>

<template>
  <header class="head">
    <slot />
    <DesignHead v-if="study" :study="study" />
    <WhoIsHere v-if="study" />
    <div class="find">
      <Suspense v-if="wanted">
        <QuickFind ref="find" :focused="called" />
        <template #fallback><span class="until">{{ t('app.find') }}</span></template>
      </Suspense>
      <button
        v-else
        type="button"
        class="until"
        data-test="find-call"
        @click="call"
        @focus="call"
      >{{ t('app.find') }} <kbd aria-hidden="true">/</kbd></button>
    </div>
  </header>
</template>

<style scoped>
.head {
  position: sticky;
  top: 0;
  z-index: 5;
  background: var(--paper);
  display: flex;
  align-items: baseline;
  flex-wrap: wrap;
  gap: 4px 22px;
  padding: 9px 28px 7px;
  border-bottom: 1px solid var(--rule);
}
.head :deep(h1) {
  font-size: 19.5px;
  font-weight: 600;
  line-height: 1.25;
}
.head :deep(.context) {
  color: var(--soft);
  font-size: 14.5px;
}
.find {
  flex: 1 1 110px;
  align-self: center;
  max-width: 236px;
  height: 30px;
  margin-left: auto;
}
.find :deep(.v-input__control),
.find :deep(.v-field) {
  --v-input-control-height: 30px;
}
.until {
  display: flex;
  justify-content: space-between;
  align-items: center;
  width: 100%;
  height: 30px;
  padding: 0;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: none;
  font: inherit;
  font-size: 14.5px;
  color: var(--soft);
  cursor: text;
}
@media (max-width: 640px) {
  .head { position: static; padding: 9px 14px 7px; }
  .find { flex-basis: 100%; max-width: none; }
}
</style>

<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import { isDone, putAway, steps } from '@/app/firstSteps'

/** Three lines for who is here for the first time; they go for good when they are done. */
const { t } = useI18n()
</script>

<template>
  <section class="first" :aria-label="t('first.title')" data-test="first-steps">
    <ol>
      <li v-for="s in steps" :key="s" :class="{ done: isDone(s) }">
        <span class="mark" aria-hidden="true">{{ isDone(s) ? '✓' : '' }}</span>
        <span><b>{{ t(`first.${s}.title`) }}</b> {{ t(`first.${s}.how`) }}<span v-if="isDone(s)" class="visually-hidden"> {{ t('first.done') }}</span></span>
      </li>
    </ol>
    <button type="button" class="act small" data-test="first-away" @click="putAway">{{ t('first.away') }}</button>
  </section>
</template>

<style scoped>
.first { display: flex; gap: 6px 30px; justify-content: space-between; align-items: flex-end; margin: 14px 30px 0 34px; padding: 10px 16px; background: var(--sheet); border: 1px solid var(--rule); }
ol { list-style: none; padding: 0; }
li { display: flex; gap: 8px; padding: 1px 0; }
.mark { flex: none; width: 15px; height: 15px; margin-top: 3px; border: 1px solid var(--soft); border-radius: 50%; font-size: 11px; line-height: 15px; text-align: center; }
.done { color: var(--soft); }
.done b { font-weight: 400; }
@media (max-width: 640px) { .first { display: block; margin: 10px 14px 0; } }
@media print { .first { display: none; } }
:root.reading .first { display: none; }
</style>

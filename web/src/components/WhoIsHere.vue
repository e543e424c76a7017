<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import { company, told } from '@/app/live'
import { useSession } from '@/app/session'

/** The others who look at the study, quietly, and what one of them did last. */
const { t } = useI18n()
const session = useSession()
const where = (p: (typeof company.value)[number]) =>
  p.number ? t(p.editing ? 'live.changes' : 'live.at', { name: p.name, n: p.number }) : p.name
</script>

<template>
  <span v-if="company.length || (told && told.study === session.studyId)" class="here soft small" data-test="here">
    <span v-for="(p, i) in company" :key="i" class="one" :class="{ editing: p.editing }">{{ where(p) }}</span>
    <span v-if="told && told.study === session.studyId" class="told" role="status" data-test="told">{{
      t('live.told', { name: told.by, what: told.what })
    }}</span>
  </span>
</template>

<style scoped>
.here { display: inline-flex; flex-wrap: wrap; gap: 2px 14px; align-items: baseline; }
.one::before {
  content: '';
  display: inline-block;
  width: 7px;
  height: 7px;
  margin-right: 5px;
  border: 1.5px solid var(--teal);
  border-radius: 50%;
}
.one.editing::before { background: var(--teal); }
.told { color: var(--ink); }
@media print { .here { display: none; } }
</style>

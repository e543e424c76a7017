<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import { count, exact } from '@/app/format'

import type { Question } from '@/api/client'

/** A number of which only these figures are known, as somebody gave them. */
defineProps<{ summaries: Question['summaries'] }>()
const { t } = useI18n()
</script>

<template>
  <table class="figures" data-test="summaries">
    <thead>
      <tr>
        <th scope="col">{{ t('topline.group') }}</th>
        <th scope="col" class="num">{{ t('topline.n') }}</th>
        <th scope="col" class="num">{{ t('topline.mean') }}</th>
        <th scope="col" class="num">{{ t('topline.sd') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="s in summaries" :key="s.label">
        <th scope="row">{{ s.label }}</th>
        <td class="num">{{ count(s.n) }}</td>
        <td class="num">{{ exact(s.mean) }}</td>
        <td class="num">{{ exact(s.sd) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.figures { width: auto; border-collapse: collapse; margin: 8px 0 4px; }
.figures th, .figures td { padding: 5px 0; text-align: left; font-weight: 400; border-bottom: 1px solid var(--rule); }
.figures thead th { font-size: 14px; color: var(--soft); }
.figures .num { text-align: right; padding-left: 34px; }
</style>

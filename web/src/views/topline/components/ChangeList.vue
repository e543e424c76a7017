<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import { moment } from '@/app/format'

import type { Analysis } from '@/api/client'

/** What was changed of a claim since it was stated. */
defineProps<{ changes: Analysis['changes'] }>()
const { t } = useI18n()
</script>

<template>
  <div class="small soft">
    <p>{{ t('claim.changes') }}:</p>
    <ul>
      <li v-for="(c, i) in changes" :key="i">
        {{ c.text }}<template v-if="c.at"> · {{ moment(c.at) }}</template><template
          v-if="c.at && c.afterRun"
        > · {{ t('claim.after_run') }}</template>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul { padding-left: 18px; }
</style>

<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import { count, fixed } from '@/parts/format'

import type { GoodnessOfFit } from '@/api/client'

/** The working of the statistic. An answer that stands out bears a stroke over its
 * count for more than expected, under it for fewer. */
defineProps<{ result: GoodnessOfFit }>()
const { t } = useI18n()
</script>

<template>
  <table class="figures">
    <thead>
      <tr>
        <th scope="col">{{ t('claim.answer') }}</th>
        <th scope="col">{{ t('claim.observed_h') }}</th>
        <th scope="col">{{ t('claim.share_h') }}</th>
        <th scope="col">{{ t('claim.expected_h') }}</th>
        <th scope="col">{{ t('claim.difference_h') }}</th>
        <th scope="col">{{ t('claim.contribution_h') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in result.rows" :key="row.slot" :class="{ out: row.leftOut }">
        <th scope="row">{{ row.label }}</th>
        <td>
          <span v-if="row.standsOut" :class="row.standsOut">{{ count(row.observed) }}<span class="visually-hidden">, {{ t(`claim.${row.standsOut}`) }}</span></span>
          <template v-else>{{ count(row.observed) }}</template>
        </td>
        <td>{{ fixed(row.share, 3) }}</td>
        <td>{{ row.leftOut ? t('claim.left_out') : fixed(row.expected, 1) }}</td>
        <td>{{ row.leftOut ? '' : fixed(row.difference, 1) }}</td>
        <td>{{ row.leftOut ? '' : fixed(row.contribution, 3) }}</td>
      </tr>
    </tbody>
    <tfoot>
      <tr>
        <th scope="row">{{ t('claim.total') }}</th>
        <td>{{ count(result.n) }}</td>
        <td>{{ fixed(result.sumShare, 3) }}</td>
        <td>{{ fixed(result.sumExpected, 1) }}</td>
        <td>{{ fixed(result.sumDifference, 1) }}</td>
        <td>{{ fixed(result.statistic, 3) }}</td>
      </tr>
    </tfoot>
  </table>
</template>

<style scoped>
thead th { white-space: nowrap; }
.more, .fewer { font-weight: 650; display: inline-block; padding: 0 1px; }
.more { color: var(--rust); border-top: 3px solid var(--rust); }
.fewer { color: var(--steel); border-bottom: 3px solid var(--steel); }
.out { color: var(--soft); }
</style>

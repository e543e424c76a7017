<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'

/** The ways in which a table leaves: copied as a table and as text together, so that it
 * pastes as one into a word processor and a spreadsheet, or as a file. */
const props = defineProps<{ address: string }>()
const { t } = useI18n()
const state = ref<'' | 'copied' | 'failed'>('')

async function copy() {
  try {
    const part = (form: 'html' | 'tsv', type: string) => api.table(props.address, form).then((text) => new Blob([text], { type }))
    await navigator.clipboard.write([
      new ClipboardItem({ 'text/html': part('html', 'text/html'), 'text/plain': part('tsv', 'text/plain') }),
    ])
    state.value = 'copied'
  } catch {
    state.value = 'failed'
  }
  setTimeout(() => (state.value = ''), 4000)
}
</script>

<template>
  <span class="leave">
    <button type="button" class="act" data-test="copy-table" @click="copy">
      {{ state === 'copied' ? t('leave.copied') : t('leave.copy') }}
    </button>
    <a class="act" :href="api.tableFile(address, 'csv')" download data-test="table-csv">{{ t('leave.csv') }}</a>
    <a class="act" :href="api.tableFile(address, 'xlsx')" download data-test="table-xlsx">{{ t('leave.xlsx') }}</a>
    <span role="status" class="soft">{{ state === 'failed' ? t('leave.failed') : '' }}</span>
  </span>
</template>

<style scoped>
.leave { display: inline-flex; flex-wrap: wrap; gap: 0 12px; font-size: 13.5px; }
.act { font-weight: 400; text-decoration: none; }
</style>

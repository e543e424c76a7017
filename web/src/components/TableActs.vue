<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import MenuButton from '@/components/MenuButton.vue'

/** The ways in which a table leaves: copied as a table and as text together, so that it
 * pastes as one into a word processor and a spreadsheet, a column of it alone as it is shown,
 * or as a file. */
const props = defineProps<{ address: string; columns?: string[] }>()
const { t } = useI18n()
const state = ref<'' | 'copied' | 'failed'>('')

async function attempt(items: Record<string, Promise<Blob>>) {
  try {
    await navigator.clipboard.write([new ClipboardItem(items)])
    state.value = 'copied'
  } catch {
    state.value = 'failed'
  }
  setTimeout(() => (state.value = ''), 4000)
}
const blob = (text: Promise<string>, type: string) => text.then((got) => new Blob([got], { type }))
const copy = () =>
  attempt({
    'text/html': blob(api.table(props.address, 'html'), 'text/html'),
    'text/plain': blob(api.table(props.address, 'tsv'), 'text/plain'),
  })
const copyColumn = (at: number) => attempt({ 'text/plain': blob(api.tableColumn(props.address, at), 'text/plain') })
</script>

<template>
  <span class="leave">
    <button type="button" class="act" data-test="copy-table" @click="copy">
      {{ state === 'copied' ? t('leave.copied') : t('leave.copy') }}
    </button>
    <MenuButton
      v-if="columns && columns.length > 1"
      class="act"
      data-test="copy-column"
      :label="t('leave.column')"
      :entries="columns.map((title, i) => ({ key: String(i), title, test: `column-${i}`, act: () => copyColumn(i) }))"
    >{{ t('leave.column') }}</MenuButton>
    <a class="act" :href="api.tableFile(address, 'csv')" download data-test="table-csv">{{ t('leave.csv') }}</a>
    <a class="act" :href="api.tableFile(address, 'xlsx')" download data-test="table-xlsx">{{ t('leave.xlsx') }}</a>
    <slot />
    <span role="status" class="soft">{{ state === 'failed' ? t('leave.failed') : '' }}</span>
  </span>
</template>

<style scoped>
.leave { display: inline-flex; flex-wrap: wrap; gap: 0 12px; font-size: 13.5px; }
.leave :deep(.act) { font-weight: 400; text-decoration: none; }
</style>

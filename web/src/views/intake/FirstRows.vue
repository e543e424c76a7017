<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** The first lines of a file as they stand in it. */
defineProps<{ names: string[]; rows: string[][] }>()
const { t } = useI18n()
</script>

<template>
  <div class="scroll" tabindex="0" role="region" :aria-label="t('intake.first')">
    <table>
      <thead>
        <tr><th v-for="(n, i) in names" :key="i" scope="col">{{ n }}</th></tr>
      </thead>
      <tbody>
        <tr v-for="(row, i) in rows" :key="i"><td v-for="(cell, k) in row" :key="k">{{ cell }}</td></tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
  max-width: 100%;
  border-top: 1px solid var(--rule);
}
table {
  border-collapse: collapse;
  font-size: 14px;
}
th {
  text-align: left;
  font-weight: 600;
  white-space: nowrap;
}
th,
td {
  vertical-align: top;
  padding: 4px 16px 4px 0;
  border-bottom: 1px solid var(--hair);
}
td {
  white-space: pre;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>

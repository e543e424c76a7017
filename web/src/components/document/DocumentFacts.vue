<script setup lang="ts">
import type { Fact } from '@/api/client'

/** Figures with their names, side by side. */
defineProps<{ facts: Fact[] }>()
</script>

<template>
  <dl class="facts">
    <div v-for="f in facts" :key="f.key">
      <dt>{{ f.name }}</dt>
      <dd :data-test="f.key">{{ f.value }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.facts { display: flex; flex-wrap: wrap; gap: 8px 26px; margin: 8px 0 6px; }
dt { color: var(--soft); font-size: 13px; }
dd { margin: 0; font-weight: 650; font-size: 15.5px; }
</style>

<script setup lang="ts">
import type { Change, Choices } from '@/api/client'

/** Ways to look at a result; pressing one changes what is asked. */
defineProps<{ choices: Choices }>()
defineEmits<{ change: [change: Change] }>()
</script>

<template>
  <p class="choices">
    <span class="soft">{{ choices.label }}</span>
    <button
      v-for="o in choices.options"
      :key="o.label"
      type="button"
      class="act"
      :aria-pressed="o.chosen"
      data-test="choice"
      @click="$emit('change', o.change)"
    >{{ o.label }}</button>
  </p>
</template>

<style scoped>
.choices { display: flex; flex-wrap: wrap; gap: 2px 18px; font-size: 14.5px; align-items: baseline; margin-bottom: 4px; }
.act { font-weight: 400; color: var(--soft); padding: 1px 0; }
.act:hover { color: var(--teal); }
.act[aria-pressed='true'] { font-weight: 650; color: var(--ink); }
</style>

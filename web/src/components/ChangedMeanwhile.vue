<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

/** Says that what is being changed here was changed by somebody else since it was opened, so that nobody replaces it unknowingly.
 * State is what it was made of: its version, or its text. */
const props = defineProps<{ state: number | string | undefined }>()
const { t } = useI18n()
const opened = props.state
const changed = computed(() => props.state !== opened)
</script>

<template>
  <p v-if="changed" class="meanwhile small" role="status" data-test="changed-meanwhile">{{ t('live.stale') }}</p>
</template>

<style scoped>
.meanwhile { color: var(--rust); }
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { ApiError } from '@/api/client'

/** Says what went wrong where it went wrong, with the way out beside it. */
const props = defineProps<{ error: Error; action?: string | undefined }>()
defineEmits<{ act: [] }>()
const { t } = useI18n()
const gone = computed(() => props.error instanceof ApiError && props.error.isGone)
const text = computed(() => (props.error instanceof ApiError && props.error.status === 0 ? t('app.unreachable') : props.error.message))
</script>

<template>
  <div class="error" role="alert" data-test="error">
    <p>{{ text }}</p>
    <RouterLink v-if="action && gone" class="act" to="/studies">{{ t('app.to_shelf') }}</RouterLink>
    <button v-else-if="action" type="button" class="act" @click="$emit('act')">{{ action }}</button>
  </div>
</template>

<style scoped>
.error { border-left: 3px solid var(--rust); padding: 4px 0 4px 14px; margin: 10px 0; max-width: 700px; }
.error p { margin: 0; }
</style>

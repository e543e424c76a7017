<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Members, Role } from '@/api/client'

/** The role of somebody, a group or everybody, which owners change; people alone own. */
const props = defineProps<{ role: Role | ''; name: string; members: Members; person?: boolean }>()
defineEmits<{ choose: [role: Role | ''] }>()
const { t } = useI18n()
const items = computed(() => {
  const roles = props.members.roles.filter((r) => props.person || r !== 'owner')
  return [...roles, '' as const].map((value) => ({ value, title: t(`people.roles.${value || 'none'}`) }))
})
</script>

<template>
  <v-select
    v-if="members.owns"
    :model-value="role"
    :items="items"
    :aria-label="t('people.role_of', { name })"
    @update:model-value="$emit('choose', $event)"
  />
  <template v-else>{{ t(`people.roles.${role || 'none'}`) }}</template>
</template>

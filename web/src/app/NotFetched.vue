<script setup lang="ts">
import { useI18n } from 'vue-i18n'

import ErrorNote from '@/components/ErrorNote.vue'

/** Stands where a part of the application should be. */
defineOptions({ inheritAttrs: false }) // what was meant for the part, and why it is not there
const { t } = useI18n()
const reload = () => location.reload()
</script>

<template>
  <ErrorNote :error="new Error(t('app.not_fetched'))" :action="t('app.reload_page')" @act="reload" />
</template>

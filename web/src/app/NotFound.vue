<script setup lang="ts">
import { useI18n } from 'vue-i18n'

const { t } = useI18n()
</script>

<template>
  <main id="page" class="sheet" tabindex="-1">
    <h1>{{ t('app.page_not_found') }}</h1>
    <p><RouterLink to="/studies">{{ t('app.to_shelf') }}</RouterLink></p>
  </main>
</template>

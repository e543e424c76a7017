<script setup lang="ts">
import { useI18n } from 'vue-i18n'

const { t } = useI18n()
const example = ['ward;tenure;caddy', 'Harbour;rents;yes', 'Fenside;owns;no', 'Harbour;owns;']
</script>

<template>
  <div class="empty">
    <h2>{{ t('studies.empty_title') }}</h2>
    <ol class="lead">
      <li v-for="step in ['bring', 'check', 'read']" :key="step">{{ t(`studies.empty_steps.${step}`) }}</li>
    </ol>
    <p><v-btn to="/intake" variant="flat" color="primary" size="large">{{ t('studies.start') }}</v-btn></p>
    <figure>
      <figcaption>{{ t('studies.empty_example') }}</figcaption>
      <pre>{{ example.join('\n') }}</pre>
      <p class="soft small">{{ t('studies.example_note') }}</p>
    </figure>
  </div>
</template>

<style scoped>
.empty { max-width: 640px; padding-top: 26px; }
h2 { font-size: 25px; font-weight: 600; line-height: 1.3; margin-bottom: 10px; }
.lead { font-size: 17px; margin-bottom: 20px; padding-left: 24px; }
.lead li { margin-bottom: 5px; }
figure { margin-top: 40px; border-top: 1px solid var(--rule); padding-top: 12px; }
figcaption { font-weight: 600; margin-bottom: 6px; }
pre { font: 14.5px/1.5 ui-monospace, monospace; color: var(--soft); margin-bottom: 8px; }
</style>

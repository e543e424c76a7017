<script setup lang="ts">
import { I18nT, useI18n } from 'vue-i18n'

import { count } from '@/app/format'

import type { Arrival } from '@/api/client'

/** The file holds a whole study: it can be opened as it was. */
defineProps<{ packed: NonNullable<Arrival['packed']> }>()
defineEmits<{ open: [] }>()
const { t } = useI18n()
</script>

<template>
  <section class="packed" data-test="packed">
    <p v-if="packed.problem" class="lead">{{ packed.problem }}</p>
    <template v-else>
      <I18nT keypath="intake.packed" scope="global" tag="p" class="lead">
        <template #name><strong>{{ packed.name }}</strong></template>
        <template #rows>{{ count(packed.rows) }} {{ packed.units }}</template>
        <template #questions>{{ t('topline.questions', packed.questions) }}</template>
        <template #claims>{{ t('intake.packed_claims', { n: count(packed.claims) }, packed.claims) }}</template>
      </I18nT>
      <p class="acts"><v-btn
        variant="flat"
        color="primary"
        data-test="open-packed"
        @click="$emit('open')"
      >{{ t('intake.packed_open') }}</v-btn>
        <span class="soft">{{ t('intake.packed_or') }}</span></p>
    </template>
  </section>
</template>

<style scoped>
.packed { padding: 2px 30px 4px 18px; border-left: 3px solid var(--teal); margin: 18px 0 0 34px; }
.acts { align-items: center; margin-top: 8px; }
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import type { ReportPage, ReportPiece } from '@/api/client'

/** What can be done with a piece, beside it. */
const props = defineProps<{ piece: ReportPiece; page: ReportPage; first: boolean; last: boolean }>()
const emit = defineEmits<{ move: [by: number]; remove: []; write: []; edit: [change: Partial<ReportPiece>]; open: [] }>()
const { t } = useI18n()
const shown = computed(() => props.piece.shown ?? props.page.usual)
const places = computed(() => props.page.places.filter((p) => p !== 'heading'))
type Place = ReportPage['places'][number]
function toggle(place: Place) {
  const list = places.value.filter((p) => (p === place ? !shown.value.includes(p) : shown.value.includes(p)))
  emit('edit', { shown: list })
}
</script>

<template>
  <p class="piece-acts" data-test="piece-acts">
    <button
      v-if="piece.prose !== undefined"
      type="button"
      class="act"
      data-test="prose-edit"
      @click="emit('open')"
    >{{ t('report_page.edit') }}</button>
    <v-menu v-if="piece.analysis" :close-on-content-click="false">
      <template #activator="{ props: activator }">
        <button
          v-bind="activator"
          type="button"
          class="act"
          data-test="piece-shows"
        >{{ t('report_page.shows') }} <span aria-hidden="true">▾</span></button>
      </template>
      <v-list :aria-label="t('report_page.shows')">
        <v-list-item
          v-for="p in places"
          :key="p"
          :title="t(`report_page.place.${p}`) + (shown.includes(p) ? ' ✓' : '')"
          :aria-checked="shown.includes(p)"
          role="menuitemcheckbox"
          :data-test="`shows-${p}`"
          @click="toggle(p)"
        />
      </v-list>
    </v-menu>
    <button
      v-if="piece.question"
      type="button"
      class="act"
      data-test="piece-base"
      @click="emit('edit', { base: piece.base === 'everyone' ? 'answered' : 'everyone' })"
    >{{ t(piece.base === 'everyone' ? 'report_page.to_answered' : 'report_page.to_everyone') }}</button>
    <button type="button" class="act" data-test="write-before" @click="emit('write')">{{ t('report_page.write') }}</button>
    <button type="button" class="act" :disabled="first" data-test="piece-up" @click="emit('move', -1)">{{ t('report_page.up') }}</button>
    <button type="button" class="act" :disabled="last" data-test="piece-down" @click="emit('move', 1)">{{ t('report_page.down') }}</button>
    <button type="button" class="act" data-test="piece-remove" @click="emit('remove')">{{ t('report_page.remove') }}</button>
  </p>
</template>

<style scoped>
.piece-acts { display: flex; flex-direction: column; align-items: flex-start; font-size: 14px; gap: 1px; }
.act { padding: 1px 0; }
</style>

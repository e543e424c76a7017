<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'

import type { Method, Outlined } from '@/api/client'

/** Chooses, by typing or with the arrows, the next question of a method that takes several,
 * or any number of them at once. */
const props = defineProps<{ method: Method; taken: string[]; questions: Outlined[]; joins: string[][] }>()
const emit = defineEmits<{ chosen: [ids: number[]]; cancel: [] }>()
const { t } = useI18n()
const many = computed(() => props.method.more === 'others')

const items = computed(() =>
  props.questions
    .filter((q) => !props.taken.includes(String(q.id)) && (props.joins[q.joins] ?? []).includes(props.method.name))
    .map((q) => ({
      value: q.id,
      title: `${q.number} · ${q.wording}`,
      short: `${q.number} · ${q.short || q.name}`,
      keys: `${q.name} ${q.short} ${q.section}`,
    })),
)
const chosen = ref<number | null>(null)
const several = ref<number[]>([])
const field = useTemplateRef<{ focus: () => void }>('field')
/** A menu from which it was opened gives the focus away only when it has closed. */
const menuCloses = 80
onMounted(() => setTimeout(() => field.value?.focus(), menuCloses))

function matches(_: string, typed: string, item?: { raw: { title: string; keys: string } }) {
  const text = `${item?.raw.title ?? ''} ${item?.raw.keys ?? ''}`.toLowerCase()
  return typed.toLowerCase().split(/\s+/).every((word) => text.includes(word))
}
function take(id: number | null) {
  if (id !== null) emit('chosen', [id])
}
/** A list of several that is open takes Escape for itself. */
function escape(event: KeyboardEvent) {
  if (!many.value || (event.target as HTMLElement).getAttribute('aria-expanded') !== 'true') emit('cancel')
}
</script>

<template>
  <div class="other" data-test="other-question" @keydown.esc.capture="escape">
    <p v-if="!items.length" class="soft">{{ t('topline.no_other') }}</p>
    <template v-else-if="many">
      <v-autocomplete
        ref="field"
        v-model="several"
        :items="items"
        multiple
        chips
        closable-chips
        clear-on-select
        :label="t(`ask.${method.texts}.other`)"
        :placeholder="t('topline.find_other')"
        :no-data-text="t('app.nothing_found')"
        :custom-filter="matches"
        auto-select-first
        data-test="find-others"
      >
        <template #chip="{ props: chip, item }"><v-chip
          v-bind="chip"
          size="small"
          :text="items.find((i) => i.value === item.value)?.short ?? ''"
        /></template>
      </v-autocomplete>
      <p class="acts">
        <v-btn
          variant="flat"
          color="primary"
          :disabled="!several.length"
          data-test="take-others"
          @click="emit('chosen', several)"
        >{{ t('topline.describe_them') }}</v-btn>
        <button
          type="button"
          class="act"
          data-test="take-all"
          @click="several = items.map((i) => i.value)"
        >{{ t('topline.all_others', { n: items.length }) }}</button>
        <button type="button" class="act" @click="$emit('cancel')">{{ t('app.cancel') }}</button>
      </p>
    </template>
    <v-autocomplete
      v-else
      ref="field"
      v-model="chosen"
      :items="items"
      :label="t(`ask.${method.texts}.${taken.length > 1 ? 'third' : 'other'}`)"
      :placeholder="t('topline.find_other')"
      :no-data-text="t('app.nothing_found')"
      :custom-filter="matches"
      auto-select-first
      data-test="find-other"
      @update:model-value="take"
    />
  </div>
</template>

<style scoped>
.other { max-width: 620px; margin: 8px 0; }
.acts { margin: 10px 0; align-items: center; }
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import { I18nT, useI18n } from 'vue-i18n'

import ChoiceMenu from '@/components/ChoiceMenu.vue'
import { useMethods } from '@/composables/useMethods'

import type { Question } from '@/api/client'

/** The design of a claim, asked once: what the question is compared with, and what is to be
 * shown. The kind of claim that serves is proposed, with the reason. */
const props = defineProps<{ question: Question }>()
const emit = defineEmits<{ open: [method: string]; cancel: [] }>()
const { t } = useI18n()
const { byName, proposals } = useMethods()
const what = ref('')
const aim = ref('')

const withs = computed(() => [...new Set(props.question.proposed.map((p) => p.with))]
  .map((value) => ({ value, title: t(`design.with.${value}`) })))
const aims = computed(() => props.question.proposed.filter((p) => p.with === what.value)
  .map((p) => ({ value: p.aim as string, title: t(`design.aim.${p.aim}`) })))
function choose(to: string) {
  what.value = to
  if (!aims.value.some((a) => a.value === aim.value)) aim.value = aims.value.length === 1 ? aims.value[0]!.value : ''
}
const proposed = computed(() => props.question.proposed.find((p) => p.with === what.value && p.aim === aim.value))
const why = computed(() => proposals.value.find((p) => p.method === proposed.value?.method)?.why ?? '')
const act = computed(() => {
  const method = byName.value.get(proposed.value?.method ?? '')
  return method ? t(`ask.${method.texts}.act`) : ''
})
</script>

<template>
  <div class="beside">
    <div class="design" data-test="design" @keydown.esc="$emit('cancel')">
      <p class="sentence">
        <I18nT keypath="design.says" scope="global">
          <template #question>{{ question.short || `“${question.wording}”` }}</template>
          <template #with><ChoiceMenu
            :model-value="what"
            :items="withs"
            :label="t('design.with_label')"
            :placeholder="t('design.with_hint')"
            test="design-with"
            @update:model-value="choose"
          /></template>
          <template #aim><ChoiceMenu
            v-model="aim"
            :items="aims"
            :label="t('design.aim_label')"
            :placeholder="t('design.aim_hint')"
            test="design-aim"
          /></template>
        </I18nT>
      </p>
      <p v-if="proposed" role="status" data-test="design-why">{{ why }}</p>
      <p class="acts">
        <v-btn
          variant="flat"
          color="primary"
          :disabled="!proposed"
          data-test="design-open"
          @click="proposed && emit('open', proposed.method)"
        >{{ act || t('design.go') }}</v-btn>
        <button type="button" class="act" @click="$emit('cancel')">{{ t('app.cancel') }}</button>
      </p>
    </div>
    <div class="margin" />
  </div>
</template>

<style scoped>
.design { margin: 6px 30px 14px 78px; border-left: 3px solid var(--teal); padding: 2px 0 4px 20px; }
.sentence { font: 500 17.5px/2.05 'Source Serif 4 Variable', serif; max-width: 800px; margin-bottom: 4px; }
.acts { align-items: center; margin-top: 8px; }
@media (max-width: 640px) { .design { margin: 6px 14px 14px; padding-left: 12px; } }
</style>

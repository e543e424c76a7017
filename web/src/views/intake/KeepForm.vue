<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import SentenceBlank from '@/components/SentenceBlank.vue'

const props = defineProps<{ suggestedName: string; counted: boolean; drawn: string[] }>()
defineEmits<{ keep: [name: string, units: string, design?: boolean] }>()
const { t } = useI18n()
const name = ref(props.suggestedName)
const units = ref('')
</script>

<template>
  <form class="keep" @submit.prevent="$emit('keep', name, units)">
    <p class="sentence">
      {{ t('intake.keep_line_1') }}
      <SentenceBlank
        v-model="name"
        :label="t('intake.name_hint')"
        :placeholder="t('intake.name_hint')"
        :maxlength="120"
        required
        test="study-name"
      />{{ counted ? t('intake.keep_counted') : t('intake.keep_line_2') }}
      <SentenceBlank v-model="units" :label="t('topline.units_edit')" :placeholder="t('intake.units_hint')" :maxlength="40" test="units" />.
    </p>
    <v-btn
      type="submit"
      variant="flat"
      color="primary"
      size="large"
      :disabled="name.trim() === ''"
      data-test="keep"
    >{{ t('intake.keep') }}</v-btn>
    <p v-if="drawn.length && !counted" class="soft small drawn" data-test="looks-drawn">
      {{ t('intake.looks_drawn', { names: drawn.map((d) => `“${d}”`).join(', ') }) }}
      <button
        type="button"
        class="act"
        :disabled="name.trim() === ''"
        data-test="keep-design"
        @click="$emit('keep', name, units, true)"
      >{{ t('intake.keep_design') }}</button>
    </p>
  </form>
</template>

<style scoped>
.keep { margin: 6px 0 10px; }
.drawn { margin-top: 10px; }
.sentence { font: 500 18px/2.1 'Source Serif 4 Variable', serif; }
</style>

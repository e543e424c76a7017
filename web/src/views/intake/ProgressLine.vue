<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'

/** How far a long import has come, and the way to stop it. */
const props = defineProps<{ name: string; stage: string; rows: number; percent: number; secondsLeft: number }>()
defineEmits<{ cancel: [] }>()
const { t } = useI18n()
const known = computed(() => props.percent > 0)
const left = computed(() => (props.secondsLeft >= 1 ? t('intake.left', { n: Math.ceil(props.secondsLeft) }) : ''))
</script>

<template>
  <div class="sheet tight" role="status" data-test="progress">
    <p>
      {{ t(`intake.stages.${stage}`, { name }) }}
      <span
        v-if="rows > 0"
        class="soft"
      >{{ t('intake.rows_so_far', { n: count(rows) }, rows) }}<template
        v-if="known"
      > · {{ Math.floor(percent) }} %</template><template v-if="left"> · {{ left }}</template></span>
      <button
        type="button"
        class="act"
        data-test="cancel"
        @click="$emit('cancel')"
      >
        {{ t('app.cancel') }}
      </button>
    </p>
    <v-progress-linear
      :indeterminate="!known"
      :model-value="percent"
      color="primary"
      height="3"
      :aria-label="t(`intake.stages.${stage}`, { name })"
    />
  </div>
</template>

<style scoped>
.tight { padding-bottom: 0; }
.act { margin-left: 14px; }
</style>

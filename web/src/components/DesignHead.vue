<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { anew } from '@/app/queries'
import { useAttempt } from '@/composables/useAttempt'
import { useLoad } from '@/composables/useLoad'

/** Says in the head of a place whether figures estimate the population, and switches it. Nothing
 * stands here where the study has no design. */
const props = defineProps<{ study: number }>()
const { t } = useI18n()
const { data } = useLoad(() => [props.study, 'design'], (signal) => api.design(props.study, signal))
const { error, attempt } = useAttempt()
const said = computed(() => t(data.value?.off ? 'sample_design.head.respondents' : 'sample_design.head.estimates'))
async function turn() {
  const is = data.value
  if (!is) return
  const { weight, strata, cluster, fraction, singlePsu, population, replicates, method, fay, factors, df, off } = is
  const turned = await attempt(() => api.setDesign(
    props.study,
    { weight, strata, cluster, fraction, singlePsu, population, replicates, method, fay, factors, df, off: !off },
  ))
  if (!turned) return
  data.value = turned.value
  await anew()
}
</script>

<template>
  <span
    v-if="data?.stated"
    class="context design"
    data-test="design-head"
    :title="data.head"
  ><RouterLink :to="`/studies/${study}/codebook?show=design`">{{ said }}</RouterLink>
    <button
      type="button"
      class="act"
      data-test="design-turn"
      @click="turn"
    >{{ t(data.off ? 'sample_design.head.estimate' : 'sample_design.head.count') }}</button>
    <span v-if="error" role="alert" class="caution">{{ error.message }}</span></span>
</template>

<style scoped>
.design .act { margin-left: 8px; }
</style>

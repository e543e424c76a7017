<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { whenIdle } from '@/app/idle'
import { fetched } from '@/app/later'
import { sizes } from '@/charts/sizes'

import type { Chart } from '@/api/client'

/** A chart of a document. What draws it is large and comes once what can be read stands there;
 * its room is kept meanwhile. It leaves as the server draws it, or as a picture of points, on
 * paper in both themes. */
const props = defineProps<{ chart: Chart; picture?: string | undefined }>()
const { t } = useI18n()
const ChartDrawing = fetched(async () => {
  await new Promise<void>(whenIdle)
  return import('./ChartDrawing.vue')
})
const size = computed(() => sizes(props.chart))

const state = ref<'' | 'copied' | 'failed'>('')
const points = () =>
  Promise.all([import('@/charts/points'), api.chartData(props.picture ?? '')]).then(([{ pointsOf }, chart]) => pointsOf(chart))
async function attempt(work: () => Promise<void>, done: '' | 'copied') {
  try {
    await work()
    state.value = done
  } catch {
    state.value = 'failed'
  }
  setTimeout(() => (state.value = ''), 4000)
}
const copy = () => attempt(() => navigator.clipboard.write([new ClipboardItem({ 'image/png': points() })]), 'copied')
const save = () =>
  attempt(async () => {
    const link = document.createElement('a')
    link.href = URL.createObjectURL(await points())
    link.download = 'picture.png'
    link.click()
    URL.revokeObjectURL(link.href)
  }, '')
</script>

<template>
  <figure class="chart">
    <div
      class="sheet-of"
      role="img"
      :aria-label="chart.alt"
      :style="{ width: `${size.width}px`, height: `${size.height}px` }"
      data-test="chart"
    >
      <ChartDrawing :chart="chart" />
    </div>
    <p v-if="picture" class="leave">
      <span class="soft">{{ t('topline.picture') }}</span>
      <a class="act" :href="picture" download data-test="picture">SVG</a>
      <button type="button" class="act" data-test="picture-png" @click="save">PNG</button>
      <button
        type="button"
        class="act"
        data-test="picture-copy"
        @click="copy"
      >{{ state === 'copied' ? t('leave.copied') : t('leave.copy_picture') }}</button>
      <span role="status" class="soft">{{ state === 'failed' ? t('leave.failed') : '' }}</span>
    </p>
  </figure>
</template>

<style scoped>
.chart { max-width: 100%; margin: 4px 0; }
.sheet-of { max-width: 100%; }
.leave { display: flex; flex-wrap: wrap; align-items: baseline; gap: 0 12px; font-size: 13.5px; }
.act { text-decoration: none; font-weight: 400; }
</style>

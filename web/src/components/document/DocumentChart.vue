<script setup lang="ts">
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { useI18n } from 'vue-i18n'
import { useTheme } from 'vuetify'

import { drawings } from '@/charts/drawings'
import { options } from '@/charts/options'
import { paletteOf } from '@/charts/palette'
import { sizes } from '@/charts/sizes'

import type { Chart } from '@/api/client'

/** A chart of a document, drawn in the colours of the page. */
const props = defineProps<{ chart: Chart; picture?: string | undefined }>()
const { t } = useI18n()

use([SVGRenderer, ...drawings])
const theme = useTheme()
const palette = computed(() => paletteOf(theme.global.name.value))
const option = computed(() => options(props.chart, palette.value))
const size = computed(() => sizes(props.chart))
</script>

<template>
  <figure class="chart">
    <div role="img" :aria-label="chart.alt" :style="{ width: `${size.width}px`, height: `${size.height}px` }" data-test="chart">
      <VChart :option="option" :init-options="{ renderer: 'svg' }" :update-options="{ notMerge: true }" autoresize aria-hidden="true" />
    </div>
    <a v-if="picture" class="act small" :href="picture" download data-test="picture">{{ t('topline.picture') }}</a>
  </figure>
</template>

<style scoped>
.chart, .chart > div { max-width: 100%; }
.chart { margin: 4px 0; }
.act { text-decoration: none; font-weight: 400; }
</style>

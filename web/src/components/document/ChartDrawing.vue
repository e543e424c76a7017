<script setup lang="ts">
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'

import { theme } from '@/app/theme'
import { drawings } from '@/charts/drawings'
import { options } from '@/charts/options'
import { paletteOf } from '@/charts/palette'

import type { Chart } from '@/api/client'

/** The drawing of a chart, in the colours of the page. */
const props = defineProps<{ chart: Chart }>()
use([SVGRenderer, ...drawings])
const option = computed(() => options(props.chart, paletteOf(theme.value)))
</script>

<template>
  <VChart :option="option" :init-options="{ renderer: 'svg' }" :update-options="{ notMerge: true }" autoresize aria-hidden="true" />
</template>

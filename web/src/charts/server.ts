import { init, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'

import { drawings } from './drawings'
import { options } from './options'
import { paletteOf } from './palette'
import { sizes } from './sizes'

import type { Chart } from '@/api/client'

/** A still picture is not pointed at, and is the same text each time: the library numbers its
 * pictures. */
function still(svg: string): string {
  return svg.replace(/<style[\s\S]*?<\/style>/g, '').replace(/ class="zr\d+-cls-\d+"/g, '').replace(/\bzr\d+-/g, 'part-')
}

/** Draws a chart as SVG where there is no browser: the server runs this module in an engine
 * of its own, so that what leaves the application is drawn like the page. */
function drawChart(json: string): string {
  const chart = JSON.parse(json) as Chart
  const drawn = init(null, null, { renderer: 'svg', ssr: true, ...sizes(chart) })
  drawn.setOption(options(chart, paletteOf('paper')))
  const svg = drawn.renderToSVGString()
  drawn.dispose()
  return still(svg)
}

use([SVGRenderer, ...drawings])
Object.assign(globalThis, { drawChart })

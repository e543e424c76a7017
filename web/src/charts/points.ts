import { init, use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'

import { drawings } from './drawings'
import { options } from './options'
import { paletteOf } from './palette'
import { sizes } from './sizes'

import type { Chart } from '@/api/client'

use([CanvasRenderer, ...drawings])

/** A picture of points at twice the size in which it is shown, on paper. */
export async function pointsOf(chart: Chart): Promise<Blob> {
  const size = sizes(chart)
  const place = document.createElement('div')
  const drawn = init(place, null, { renderer: 'canvas', devicePixelRatio: 2, ...size })
  try {
    const palette = paletteOf('paper')
    drawn.setOption({ ...options(chart, palette), backgroundColor: palette.sheet })
    const canvas = drawn.renderToCanvas({ pixelRatio: 2, backgroundColor: palette.sheet })
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'))
    if (!blob) throw new Error('no picture')
    return blob
  } finally {
    drawn.dispose()
  }
}

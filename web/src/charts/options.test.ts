import { expect, it } from 'vitest'

import { options } from './options'
import { paletteOf } from './palette'

import type { Chart } from '@/api/client'

const palette = paletteOf('paper')
const empty = { alt: 'x', axis: 'percent', title: '', size: 1, notes: [], curve: null, whiskers: null, plot: null }
interface Drawn { xAxis: { min: number; max: number }; series: { data: unknown[]; type: string }[]; yAxis: { data?: string[] }[] }
const drawn = (chart: object) => options({ ...empty, ...chart } as unknown as Chart, palette) as unknown as Drawn

it('draws intervals one under the other, each with its name and its figure', () => {
  const rows = [{ name: 'Harbour', lower: 56, estimate: 59, upper: 62, text: '56 to 62' }, { name: 'Fenside', lower: 50, estimate: 51, upper: 52, text: '50 to 52' }]
  const o = drawn({ kind: 'whiskers', whiskers: { from: 48, to: 64, reference: { at: 62, text: 'claimed' }, rows } })
  expect([o.xAxis.min, o.xAxis.max]).toEqual([48, 64])
  expect(o.yAxis.map((y) => y.data)).toEqual([['Harbour', 'Fenside'], ['56 to 62', '50 to 52']])
  expect(o.series.slice(0, 2).map((s) => s.data)).toEqual([[[56, 0], [62, 0]], [[50, 1], [52, 1]]])
  expect(o.series[2]!.data).toEqual([[59, 0], [51, 1]])
})

it('fills a tail from the statistic to the end of the drawing', () => {
  const o = drawn({ kind: 'curve', curve: { x: [0, 1, 2, 3], density: [1, 0.6, 0.3, 0.1], top: 1, statistic: 2.5, outside: false, label: 'χ² = 2.5', critical: [], tails: [{ from: 2.5, to: null }], rejection: [{ from: 9, to: null }] } })
  expect(o.series[0]!.data).toEqual([[2.5, 0.1], [3, 0.1], [3, 0.1]])
  expect(o.series[1]!.data).toEqual([])
})

it('draws bars as outlines that touch', () => {
  const bar = (from: number, height: number) => ({ from, to: from + 10, base: 0, height, tone: 0, text: '' })
  const o = drawn({ kind: 'plot', plot: { from: 0, to: 20, top: 6, up: 'n', bars: [bar(0, 4), bar(10, 6)], names: [], legend: [], lines: [], points: [], boxes: [], rows: [], flat: false, ticks: [], tick: '' } })
  expect(o.series.map((s) => s.data)).toEqual([[[0, 0], [0, 4], [10, 4], [10, 0]], [[10, 0], [10, 6], [20, 6], [20, 0]]])
})

import type { Chart } from '@/api/client'

const rowHeight = 30
export const plotHeight = 300
export const titleHeight = 32
export const noteHeight = 15
const boxHeight = 44
const plotWidth = 760
/** Letters of our font at the size of names take about so much room. */
const letter = 6.6

/** How many lines the legend of a plot takes. */
export function legendLines(chart: Chart): number {
  const keys = chart.plot?.tick ? [chart.plot.tick] : (chart.plot?.legend ?? [])
  const room = plotWidth * chart.size - 80
  let lines = keys.length ? 1 : 0
  let so = 0
  for (const key of keys) {
    const width = Math.min(220, key.length * letter) + 30
    if (so + width > room && so > 0) {
      lines++
      so = 0
    }
    so += width
  }
  return lines
}

/** How many lines the names under the bars of a plot take. */
export function nameLines(chart: Chart): number {
  const names = chart.plot?.names ?? []
  const room = (plotWidth * chart.size - 100) / Math.max(names.length, 1)
  const longest = Math.max(1, ...names.map((n) => n.text.length))
  return Math.min(3, Math.ceil((longest * letter) / room))
}

/** How large a picture is drawn, its title and its notes included. */
export function sizes(chart: Chart): { width: number; height: number } {
  const { width, height } = plain(chart)
  return { width: Math.round(width * chart.size), height: Math.round(height * (chart.plot?.rows.length ? 1 : chart.size)) + (chart.title ? titleHeight : 0) + noteHeight * chart.notes.length }
}

function plain(chart: Chart): { width: number; height: number } {
  if (chart.whiskers) return { width: plotWidth, height: 78 + rowHeight * chart.whiskers.rows.length }
  if (!chart.plot) return { width: 300, height: 170 }
  const more = 22 * Math.max(0, legendLines(chart) - 1)
  if (chart.plot.rows.length) return { width: plotWidth, height: 70 + boxHeight * chart.plot.rows.length }
  if (chart.plot.boxes.length || chart.plot.flat) return { width: plotWidth, height: 150 + more }
  return { width: plotWidth, height: plotHeight + more + (chart.plot.names.length ? 16 * (nameLines(chart) - 1) : 0) }
}

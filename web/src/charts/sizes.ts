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

const mostLines = 3
const narrow = 56
const slantHeight = 92

/** How the names under the bars of a plot stand: in up to three lines, or slanting where each
 * has little room; what is longer is cut. */
export function nameRoom(chart: Chart) {
  const names = chart.plot?.names ?? []
  const width = (plotWidth * chart.size - 100) / Math.max(names.length, 1) - 6
  if (width < narrow) return { slant: true, width, height: slantHeight, most: 17 }
  const line = Math.floor(width / letter)
  const longest = Math.max(1, ...names.map((n) => n.text.length))
  // Words do not fill their lines, so that a text is cut somewhat before they are full.
  const lines = Math.min(mostLines, Math.ceil((longest * 1.15) / line))
  return { slant: false, width, height: 16 * lines, most: Math.floor((mostLines * line) / 1.25) }
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
  return { width: plotWidth, height: plotHeight + more + (chart.plot.names.length ? nameRoom(chart).height - 16 : 0) }
}

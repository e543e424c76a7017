import type { Chart } from '@/api/client'

const rowHeight = 30
export const plotHeight = 300

/** How large a picture is drawn. */
export function sizes(chart: Chart): { width: number; height: number } {
  if (chart.whiskers) return { width: 760, height: 78 + rowHeight * chart.whiskers.rows.length }
  if (chart.plot) return { width: 760, height: chart.plot.box ? 150 : plotHeight }
  return { width: 300, height: 170 }
}

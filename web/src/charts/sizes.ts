import type { Chart } from '@/api/client'

const rowHeight = 30

/** How large a picture is drawn. */
export function sizes(chart: Chart): { width: number; height: number } {
  if (chart.whiskers) return { width: 760, height: 78 + rowHeight * chart.whiskers.rows.length }
  return { width: 300, height: 170 }
}

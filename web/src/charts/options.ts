import { legendLines, nameRoom, noteHeight, plotHeight, sizes, titleHeight } from './sizes'

import type { Chart } from '@/api/client'
import type { Palette } from './palette'

/** Turns a chart as data into the options of the drawing library. The page and the server
 * draw with this one module, so that a picture is the same everywhere. */
type Options = Record<string, unknown>
type Curve = NonNullable<Chart['curve']>
type Whiskers = NonNullable<Chart['whiskers']>
type Plot = NonNullable<Chart['plot']>

const font = "'Source Sans 3 Variable', 'Source Sans 3', Arial, sans-serif"

export function options(chart: Chart, palette: Palette): Options {
  const common = { animation: false, textStyle: { fontFamily: font, fontSize: 12.5, color: palette.soft }, ...titles(chart, palette) }
  if (chart.curve) return framed(chart, { ...common, ...curve(chart.curve, chart.axis, palette) })
  if (chart.whiskers) return framed(chart, { ...common, ...whiskers(chart.whiskers, chart.axis, palette) })
  if (chart.plot) return framed(chart, { ...common, ...plot(chart, palette) })
  return common
}

/** The title stands over the picture, the notes of one that leaves stand under it. */
function titles(chart: Chart, palette: Palette): Options {
  const { width, height } = sizes(chart)
  const title: Options[] = []
  if (chart.title)
    title.push({ text: chart.title, left: 8, top: 4, textStyle: { color: palette.ink, fontSize: 16, fontWeight: 600, fontFamily: font, width: width - 24, overflow: 'truncate' } })
  if (chart.notes.length)
    title.push({ text: chart.notes.join('\n'), left: 8, top: height - noteHeight * chart.notes.length - 4, itemGap: 0, textStyle: { color: palette.soft, fontSize: 11.5, lineHeight: noteHeight, fontWeight: 400, fontFamily: font, width: width - 24, overflow: 'truncate' } })
  return title.length ? { title } : {}
}

/** Makes room for what stands over and under a picture. */
function framed(chart: Chart, o: Options): Options {
  const over = chart.title ? titleHeight : 0
  const grid = o['grid'] as { top: number; bottom: number }
  const legend = o['legend'] as { top: number } | undefined
  return {
    ...o,
    grid: { ...grid, top: grid.top + over, bottom: grid.bottom + noteHeight * chart.notes.length },
    ...(legend ? { legend: { ...legend, top: legend.top + over } } : {}),
  }
}

/** A vertical line with its label; the label turns to the side on which there is room. */
function mark(x: number, height: number, text: string, right: boolean, color: string, style: Options) {
  return [
    {
      coord: [x, 0],
      symbol: 'none',
      lineStyle: { color, type: 'solid', ...style },
      label: {
        show: true,
        formatter: text,
        color,
        position: 'end',
        align: right ? 'left' : 'right',
        padding: [0, right ? 0 : 5, 0, right ? 5 : 0],
        distance: 3,
        fontWeight: style['width'] === 2.5 ? 650 : 400,
      },
    },
    { coord: [x, height], symbol: 'none' },
  ]
}

function curve(c: Curve, axis: string, palette: Palette): Options {
  const first = c.x[0] ?? 0
  const last = c.x[c.x.length - 1] ?? 1
  const line = c.x.map((x, i) => [x, Math.min(c.density[i] ?? 0, c.top)])
  const at = (x: number) => Math.min(Math.max(x, first), last)
  const height = (x: number) => {
    const i = c.x.findIndex((v) => v >= x)
    return Math.min(c.density[i < 0 ? c.x.length - 1 : i] ?? 0, c.top)
  }
  const filled = (spans: Curve['tails'], color: string, opacity: number) =>
    spans.map((span) => {
      const from = span.from ?? first
      const to = span.to ?? last
      const inside = line.filter(([x]) => x !== undefined && x >= from && x <= to)
      const data = from > last || to < first ? [] : [[at(from), height(at(from))], ...inside, [at(to), height(at(to))]]
      return { type: 'line', data, symbol: 'none', silent: true, lineStyle: { width: 0 }, areaStyle: { color, opacity } }
    })
  const middle = (first + last) / 2
  const labelWidth = (last - first) * 0.253
  /** A label stands outward of its line where there is room and the statistic is not in it. */
  const toRight = (x: number) => {
    const blocked = (from: number, to: number) => from < first || to > last || (!c.outside && c.statistic > from && c.statistic < to)
    const outward = x >= middle
    return blocked(outward ? x : x - labelWidth, outward ? x + labelWidth : x) ? !outward : outward
  }
  const marks = c.critical.map((l) => mark(l.at, c.top * 0.62, l.text, toRight(l.at), palette.ink, { type: [4, 3], width: 1.5 }))
  marks.push(
    c.outside
      ? mark(last, c.top, c.label, false, palette.observed, { width: 0 })
      : mark(c.statistic, c.top, c.label, c.statistic < middle, palette.observed, { width: 2.5 }),
  )
  return {
    grid: { left: 8, right: 8, top: 22, bottom: 38 },
    xAxis: {
      type: 'value', min: first, max: last, name: axis, nameLocation: 'end', nameGap: 0, splitNumber: 4,
      nameTextStyle: { align: 'right', verticalAlign: 'top', padding: [20, 0, 0, 0] },
      splitLine: { show: false },
      axisLine: { lineStyle: { color: palette.ink } },
      axisTick: { show: false },
      axisLabel: {
        color: palette.soft,
        hideOverlap: true,
        showMinLabel: first === 0,
        showMaxLabel: false,
        formatter: (x: number) => String(x).replace('-', '−'),
      },
    },
    yAxis: { type: 'value', min: 0, max: c.top * 1.02, show: false },
    series: [
      ...filled(c.tails, palette.tail, 1),
      ...filled(c.rejection, palette.rejection, 0.75),
      {
        type: 'line',
        data: line,
        symbol: 'none',
        silent: true,
        lineStyle: { color: palette.ink, width: 1.6 },
        markLine: { silent: true, symbol: 'none', data: marks },
      },
    ],
  }
}

function whiskers(w: Whiskers, axis: string, palette: Palette): Options {
  const side = { type: 'category', inverse: true, axisLine: { show: false }, axisTick: { show: false } }
  return {
    grid: { left: 182, right: 138, top: 30, bottom: 44 },
    xAxis: {
      type: 'value',
      min: w.from,
      max: w.to,
      name: axis,
      nameLocation: 'middle',
      nameGap: 26,
      splitLine: { show: false },
      axisLine: { show: true, lineStyle: { color: palette.rule } },
      axisTick: { show: false },
      axisLabel: {
        color: palette.soft,
        formatter: (x: number) => String(Math.round(x * 100) / 100),
        hideOverlap: true,
        showMinLabel: false,
        showMaxLabel: false,
      },
    },
    yAxis: [
      { ...side, data: w.rows.map((r) => r.name), axisLabel: { color: palette.ink, fontSize: 13.5, width: 168, overflow: 'truncate' } },
      { ...side, data: w.rows.map((r) => r.text), position: 'right', axisLabel: { color: palette.soft, fontSize: 13.5 } },
    ],
    series: [
      ...w.rows.map((r, i) => ({
        type: 'line', silent: true, data: [[r.lower, i], [r.upper, i]], symbol: 'path://M0 0H2V12H0Z', symbolSize: [2.5, 12],
        lineStyle: { color: palette.observed, width: 2.5 }, itemStyle: { color: palette.observed },
      })),
      {
        type: 'scatter', silent: true, data: w.rows.map((r, i) => [r.estimate, i]), symbolSize: 9, itemStyle: { color: palette.observed },
        markLine: w.reference && {
          silent: true,
          symbol: 'none',
          lineStyle: { color: palette.reference, width: 2.5, type: 'solid' },
          label: { color: palette.referenceText, fontWeight: 650, formatter: w.reference.text, position: 'start' },
          data: [{ xAxis: w.reference.at }],
        },
      },
    ],
  }
}

const plainNumber = (x: number) => String(Math.round(x * 1e9) / 1e9).replace('-', '−')

/** Bars are outlines that share their limits, so that they touch; a box is an outline, too. */
function plot(chart: Chart & { plot: Plot | null }, palette: Palette): Options {
  const p = chart.plot as Plot
  const { width } = sizes(chart)
  const outline = (data: number[][], color: string, opacity: number) => ({
    type: 'line', data, symbol: 'none', silent: true, lineStyle: { color: palette.sheet, width: 1 }, areaStyle: { color, opacity },
  })
  /** The ends of the axis are named where they are round. */
  const round = (x: number) => !p.boxes.length && Number.isInteger(x)
  const stroke = (data: number[][], width: number, color = palette.observed) => ({
    type: 'line', data, symbol: 'none', silent: true, lineStyle: { color, width },
  })
  /** Answers go from full to pale, in their order. */
  const tone = (i: number) => 1 - (0.78 * i) / Math.max(p.legend.length - 1, 1)
  const series: Options[] = p.bars.map((b) => {
    const top = b.base + b.height
    const shape = outline([[b.from, b.base], [b.from, top], [b.to, top], [b.to, b.base]], p.legend.length ? palette.observed : palette.bar, tone(b.tone))
    return { ...shape, areaStyle: { ...shape.areaStyle, origin: b.base } }
  })
  const figures = p.bars.filter((b) => b.text)
  if (figures.length) {
    series.push({
      type: 'scatter', silent: true, symbolSize: 1, z: 5, itemStyle: { color: 'transparent' },
      data: figures.map((b) => ({ value: [(b.from + b.to) / 2, p.flat ? 1 : b.base + b.height], label: { show: true, formatter: b.text, position: 'top', distance: 2, color: palette.ink, fontSize: 12 } })),
    })
  }
  for (const t of p.ticks) series.push({ ...stroke([[t.from, t.at], [t.to, t.at]], 3, palette.reference), z: 4 })
  if (p.tick) series.push({ type: 'scatter', name: p.tick, data: [], itemStyle: { color: palette.reference } })
  for (const [i, name] of p.legend.entries()) {
    series.push({ type: 'scatter', name, data: [], itemStyle: { color: palette.observed, opacity: tone(i) } })
  }
  const room = nameRoom(chart)
  const names = new Map(p.names.map((n) => [n.at, n.text.length > room.most ? n.text.slice(0, room.most - 1).trimEnd() + '…' : n.text]))
  const across = p.names.length
    ? { customValues: [...names.keys()], formatter: (x: number) => names.get(x) ?? '', ...(room.slant ? { rotate: 52, fontSize: 11.5 } : { width: room.width, overflow: 'break', lineHeight: 15, fontSize: 13 }), interval: 0, hideOverlap: false, color: palette.ink }
    : { color: palette.soft, formatter: plainNumber, hideOverlap: true, showMinLabel: round(p.from), showMaxLabel: round(p.to) }
  for (const l of p.lines) {
    const line = stroke(l.points, l.thin ? 1.5 : 2.5, l.thin ? palette.ink : palette.observed)
    series.push(l.thin ? line : { ...line, symbol: 'circle', symbolSize: l.points.length > 40 ? 0 : 6, itemStyle: { color: palette.observed } })
  }
  for (const { at, lower, quartile1, median, quartile3, upper } of p.boxes) {
    series.push(
      { ...outline([[quartile1, at - 0.25], [quartile1, at + 0.25], [quartile3, at + 0.25], [quartile3, at - 0.25]], palette.bar, 1), areaStyle: { color: palette.bar, origin: at - 0.25 } },
      stroke([[lower, at], [quartile1, at]], 2), stroke([[quartile3, at], [upper, at]], 2),
      ...[lower, upper].map((x) => stroke([[x, at - 0.12], [x, at + 0.12]], 2)),
      stroke([[median, at - 0.25], [median, at + 0.25]], 3, palette.ink),
    )
  }
  if (p.points.length) {
    const size = p.boxes.length ? 6 : p.lines.length ? 10 : Math.max(3, Math.min(11, (plotHeight - 60) / Math.max(p.top, 1)))
    series.push({ type: 'scatter', silent: true, data: p.points, symbolSize: size, itemStyle: { color: palette.observed } })
  }
  /** A few names or many: the legend takes as many lines as they need. */
  const keys = p.tick ? [p.tick] : p.legend
  const lines = legendLines(chart)
  const rows = new Map(p.rows.map((name, i) => [p.top - i - 0.5, name]))
  const below = p.names.length && !p.rows.length ? room.height + 14 : 46
  return {
    grid: { left: p.rows.length ? 168 : p.up ? 64 : 20, right: 20, top: keys.length ? 30 + 22 * lines : p.up ? 30 : 14, bottom: p.names.length ? below + 24 : 46 },
    legend: { show: keys.length > 0, data: keys.map((name) => ({ name, icon: 'rect' })), top: 0, left: p.up ? 58 : 14, width: width - 80, itemWidth: 14, itemHeight: 12, selectedMode: false, type: 'plain', textStyle: { color: palette.ink, fontSize: 13, width: 220, overflow: 'truncate' } },
    xAxis: {
      type: 'value', min: p.from, max: p.to, name: chart.axis, nameLocation: 'middle', nameGap: p.names.length ? below - 2 : 26, splitLine: { show: false },
      nameTextStyle: { width: width - 160, overflow: 'truncate' },
      axisLine: { show: true, onZero: false, lineStyle: { color: palette.ink } }, axisTick: { show: !p.names.length, lineStyle: { color: palette.rule } },
      axisLabel: across,
    },
    yAxis: p.rows.length ? {
      type: 'value', min: 0, max: p.top, splitLine: { show: false }, axisLine: { show: false }, axisTick: { show: false },
      axisLabel: { customValues: [...rows.keys()], formatter: (y: number) => rows.get(y) ?? '', color: palette.ink, fontSize: 13, width: 150, overflow: 'truncate' },
    } : {
      type: 'value', min: 0, max: p.up && p.top !== 100 ? undefined : Math.max(p.top, 1), show: p.up !== '', name: p.up, nameLocation: 'end', nameGap: 10,
      nameTextStyle: { align: 'left', color: palette.soft, padding: [0, 0, 0, -52] }, splitNumber: 4, interval: p.top === 100 ? 25 : undefined, splitLine: { lineStyle: { color: palette.rule, opacity: 0.6 } },
      axisLabel: { color: palette.soft, formatter: plainNumber },
    },
    series,
  }
}

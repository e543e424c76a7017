import { computed, ref } from 'vue'

import type { Ref } from 'vue'

export type Grid = ReturnType<typeof useGrid>

/** A whole number as it is typed, with or without separators; null for what is none. */
export function wholeOf(text: string): number | null {
  const plain = text.trim()
  if (/^\d{1,3}\.000$/.test(plain)) return null // thousands or three decimals, nobody can tell
  if (/^\d{1,3}([\s\u00a0,.'’]\d{3})+$|^\d+$/.test(plain)) return Number(plain.replace(/\D/g, ''))
  return /^\d+[.,]0+$/.test(plain) ? parseInt(plain, 10) : null
}

/** A small table of cells with the first row and column as names, and undo. Columns that are
 * not counted are named by their place. */
export function useGrid(cells: Ref<string[][]>, width: number, uncounted: number[] = []) {
  if (cells.value.length === 0) cells.value = Array.from({ length: 3 }, () => Array<string>(width).fill(''))
  else if (cells.value[0]!.length < width) cells.value = cells.value.map((r) => [...r, ...Array<string>(width - r.length).fill('')])
  const past: string[][][] = []
  const future: string[][][] = []
  const steps = ref(0)

  function put(next: string[][]) {
    past.push(cells.value)
    future.length = 0
    cells.value = next
    steps.value++
  }
  const copy = () => cells.value.map((r) => [...r])

  function set(row: number, column: number, text: string) {
    if (cells.value[row]?.[column] === text) return
    const next = copy()
    next[row]![column] = text
    put(next)
  }

  /** A block of cells from any spreadsheet, from this cell on; the table grows to hold it. */
  function paste(row: number, column: number, text: string) {
    const block = text.replace(/\r\n?/g, '\n').replace(/\n$/, '').split('\n').map((line) => line.split('\t'))
    const width = Math.max(cells.value[0]!.length, column + Math.max(...block.map((b) => b.length)))
    const height = Math.max(cells.value.length, row + block.length)
    const next = Array.from({ length: height }, (_, r) =>
      Array.from({ length: width }, (_, c) => block[r - row]?.[c - column] ?? cells.value[r]?.[c] ?? ''),
    )
    put(next.map((r) => r.map((c) => c.trim())))
  }

  /** Makes the table as wide as it is to be. */
  function fit(to: number) {
    cells.value = cells.value.map((r) => (r.length > to ? r.slice(0, to) : [...r, ...Array<string>(to - r.length).fill('')]))
  }
  const addRow = () => put([...copy(), cells.value[0]!.map(() => '')])
  const addColumn = () => put(copy().map((r) => [...r, '']))
  function dropRow(at: number) {
    if (cells.value.length > 2) put(copy().filter((_, r) => r !== at))
  }
  function dropColumn(at: number) {
    if (cells.value[0]!.length > 2) put(copy().map((r) => r.filter((_, c) => c !== at)))
  }
  function undo() {
    const before = past.pop()
    if (!before) return
    future.push(cells.value)
    cells.value = before
    steps.value++
  }
  function redo() {
    const after = future.pop()
    if (!after) return
    past.push(cells.value)
    cells.value = after
    steps.value++
  }

  /** A first look while typing; whether something is a count, the server says. */
  const whole = (text: string) => wholeOf(text) ?? 0
  const bad = (row: number, column: number) =>
    row > 0 && column > 0 && !uncounted.includes(column) && cells.value[row]![column]!.trim() !== '' && !/^[\d\s\u00a0,.'’]+$/.test(cells.value[row]![column]!)
  /** Running totals, an aid while typing; the server adds up for itself. */
  const rowTotals = computed(() => cells.value.map((r) => r.reduce((sum, c, k) => (k === 0 || uncounted.includes(k) ? sum : sum + whole(c)), 0)))
  const columnTotals = computed(() => cells.value[0]!.map((_, c) => cells.value.slice(1).reduce((sum, r) => sum + whole(r[c]!), 0)))
  const canUndo = computed(() => steps.value >= 0 && past.length > 0)

  return { cells, set, paste, fit, addRow, addColumn, dropRow, dropColumn, undo, redo, bad, rowTotals, columnTotals, canUndo }
}

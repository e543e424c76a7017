import { computed, ref } from 'vue'

import { typed } from './typed'

/** A small table of cells with the first row and column as names, and undo. */
export function useGrid(form: 'list' | 'crossing') {
  const { cells } = typed
  const width = form === 'list' ? 2 : 3
  if (cells.value.length === 0) cells.value = Array.from({ length: 3 }, () => Array<string>(width).fill(''))
  else if (form === 'crossing' && cells.value[0]!.length < 3) cells.value = cells.value.map((r) => [...r, ''])
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
  const whole = (text: string) =>
    /^\d{1,3}([\s\u00a0,.'’]\d{3})+$|^\d+$/.test(text.trim())
      ? Number(text.replace(/\D/g, ''))
      : /^\d+[.,]0+$/.test(text.trim())
        ? parseInt(text, 10)
        : 0
  const bad = (row: number, column: number) =>
    row > 0 && column > 0 && cells.value[row]![column]!.trim() !== '' && !/^[\d\s\u00a0,.'’]+$/.test(cells.value[row]![column]!)
  /** Running totals, an aid while typing; the server adds up for itself. */
  const rowTotals = computed(() => cells.value.map((r) => r.slice(1).reduce((sum, c) => sum + whole(c), 0)))
  const columnTotals = computed(() => cells.value[0]!.map((_, c) => cells.value.slice(1).reduce((sum, r) => sum + whole(r[c]!), 0)))
  const canUndo = computed(() => steps.value >= 0 && past.length > 0)

  return { cells, set, paste, addRow, addColumn, dropRow, dropColumn, undo, redo, bad, rowTotals, columnTotals, canUndo }
}

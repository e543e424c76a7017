import { expect, it } from 'vitest'
import { ref } from 'vue'

import { useGrid, wholeOf } from './useGrid'

it.each([
  ['12', 12], [' 1,240 ', 1240], ['1 240', 1240], ['1’240', 1240], ['12.0', 12], ['12,00', 12], ['1.000', null], ['1.000.000', 1000000], ['3.5', null], ['-5', null], ['', null], ['x', null],
])('“%s” is %s', (text, wanted) => expect(wholeOf(text)).toBe(wanted))

it('takes a block from a spreadsheet, grows for it, and gives back what was there', () => {
  const cells = ref<string[][]>([])
  const grid = useGrid(cells, 3)
  grid.set(1, 1, '4')
  grid.paste(1, 1, '5\t6\t7\r\n8\t\t9\n')
  expect(cells.value).toEqual([['', '', '', ''], ['', '5', '6', '7'], ['', '8', '', '9']])
  expect(grid.rowTotals.value).toEqual([0, 18, 17])
  expect(grid.columnTotals.value.slice(1)).toEqual([13, 6, 16])
  grid.undo()
  expect(cells.value[1]).toEqual(['', '4', ''])
  grid.undo()
  expect(grid.canUndo.value).toBe(false)
  grid.redo()
  expect(cells.value[1]).toEqual(['', '4', ''])
  grid.addRow()
  grid.addColumn()
  grid.dropRow(3)
  grid.dropColumn(3)
  grid.fit(2)
  expect(cells.value.map((r) => r.length)).toEqual([2, 2, 2])
})

it('says what is no count, and leaves what is not counted alone', () => {
  const grid = useGrid(ref([['', 'n', 'expected'], ['a', 'x', '1/3']]), 3, [2])
  expect([grid.bad(0, 1), grid.bad(1, 0), grid.bad(1, 1), grid.bad(1, 2)]).toEqual([false, false, true, false])
  expect(grid.rowTotals.value[1]).toBe(0)
})

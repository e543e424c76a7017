import { expect, it } from 'vitest'

import { sorted } from './arranging'

const answer = (slot: number, label: string, missing = '') => ({ slot, label, missing, sameAs: null, score: null })

it('sorts the proper answers and leaves what is missing behind them', () => {
  const answers = [answer(1, 'b'), answer(2, 'no answer', 'no answer'), answer(3, 'a'), answer(4, 'c 10'), answer(5, 'c 9')]
  const codes = new Map([[1, '10'], [3, '2'], [4, '1'], [5, '3']])
  const slots = (by: 'count' | 'label' | 'code') => sorted(answers, by, codes, new Map([[1, 5], [3, 7], [4, 5]])).map((a) => a.slot)
  expect(slots('label')).toEqual([3, 1, 5, 4, 2])
  expect(slots('code')).toEqual([4, 3, 5, 1, 2])
  expect(slots('count')).toEqual([3, 1, 4, 5, 2])
})

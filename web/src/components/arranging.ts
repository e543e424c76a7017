import { collate } from '@/app/format'

import type { Answer } from '@/api/client'

/** An answer as it is edited. */
export type Plain = Pick<Answer, 'slot' | 'label' | 'missing' | 'sameAs' | 'score'>
export type Order = 'count' | 'label' | 'code'

/** The proper answers in another order, and behind them what counts as missing. */
export function sorted(answers: Plain[], by: Order, codes: Map<number, string>, counts?: Map<number, number>): Plain[] {
  const proper = answers.filter((a) => a.missing === '')
  const rest = answers.filter((a) => a.missing !== '')
  const of: Record<Order, (a: Plain, b: Plain) => number> = {
    count: (a, b) => (counts?.get(b.slot) ?? 0) - (counts?.get(a.slot) ?? 0),
    label: (a, b) => collate(a.label, b.label),
    code: (a, b) => collate(codes.get(a.slot) ?? '', codes.get(b.slot) ?? ''),
  }
  return [...proper.sort(of[by]), ...rest]
}

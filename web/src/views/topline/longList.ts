import type { AnswerRow } from '@/api/client'

/** A list of more answers than this is shown by its largest; a whole number with more values than that is described. */
export const mostWhole = 15
export const mostValues = 14
const shown = 10

/** The largest answers of a long list in their order, and what the others come to; of a set, whose respondents
 * count in several answers, they come to nothing. */
export function largestOf(rows: AnswerRow[], summed: boolean) {
  const size = (r: AnswerRow) => r.estimate?.percent ?? r.count
  const large = new Set([...rows].sort((a, b) => size(b) - size(a)).slice(0, shown))
  const others = rows.filter((r) => !large.has(r))
  const sum = (of: (r: AnswerRow) => number | null | undefined) =>
    summed && others.every((r) => of(r) != null) ? others.reduce((total, r) => total + of(r)!, 0) : null
  return {
    rows: rows.filter((r) => large.has(r)),
    rest: {
      n: others.length,
      codes: others.map((r) => r.code),
      count: sum((r) => r.count),
      percentOfAnswered: sum((r) => r.percentOfAnswered),
      percentOfEveryone: sum((r) => r.percentOfEveryone),
      estimate: sum((r) => r.estimate?.percent),
    },
  }
}

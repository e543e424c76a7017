import { expect, test } from 'vitest'

import { largestOf } from './longList'

import type { AnswerRow } from '@/api/client'

const row = (code: string, count: number, estimated?: number): AnswerRow => ({
  slot: Number(code), code, label: `street ${code}`, count, percentOfAnswered: count / 10, percentOfEveryone: count / 20, cumulative: null, cumulativePercent: null,
  estimate: estimated === undefined ? null : { percent: estimated, lower: null, upper: null, cumulativePercent: null },
} as AnswerRow)
const streets = Array.from({ length: 40 }, (_, i) => row(String(i), i % 4 === 3 ? 100 + i : i))

test('of a long list the ten largest stand in their order, and the others are summed', () => {
  const { rows, rest } = largestOf(streets, true)
  expect(rows.map((r) => r.code)).toEqual(['3', '7', '11', '15', '19', '23', '27', '31', '35', '39'])
  // 0 + 1 + … + 39 without 3 + 7 + … + 39
  expect(rest).toMatchObject({ n: 30, count: 780 - 210, percentOfAnswered: 57, percentOfEveryone: 28.5, estimate: null })
})

test('the estimate decides what is large where there is one; a set comes to nothing', () => {
  const weighted = streets.map((r, i) => row(r.code, r.count, i < 10 ? 5 : 1))
  expect(largestOf(weighted, true).rows.map((r) => r.code)).toEqual(['0', '1', '2', '3', '4', '5', '6', '7', '8', '9'])
  expect(largestOf(weighted, true).rest.estimate).toBe(30)
  expect(largestOf(streets, false).rest).toMatchObject({ n: 30, count: null, percentOfAnswered: null })
})

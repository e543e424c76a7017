import { beforeEach, describe, expect, it } from 'vitest'

import { bytes, collate, count, day, exact, fixed, formatAs, levelText, measured, plain, published, signed } from './format'

beforeEach(() => formatAs({ locale: 'en-GB', decimal: '.', group: ',' }))

describe('numbers as they are shown', () => {
  it.each([
    [count(1234567), '1,234,567'], [count(0), '0'], [count(-1), '−1'], [count(2.5), '2.5'],
    [fixed(0.125, 2), '0.13'], [fixed(-0.125, 2), '−0.13'], [fixed(1.005, 2), '1.01'], [fixed(-0.001, 1), '0.0'], [fixed(999.95, 1), '1,000.0'], [fixed(1e15, 0), '1,000,000,000,000,000'],
    [signed(0.04, 1), '0.0'], [signed(0.05, 1), '+0.1'], [signed(-2, 0), '−2'],
    [measured(2.33496, 1), '2.33'], [measured(0.0334, 1), '0.0334'], [measured(1234.56, 1), '1,234.6'], [measured(0, 0), '0.00'],
    [plain(-1234.5678), '−1,234.57'], [exact(0.1), '0.1'], [levelText(0.025), '2.5 %'],
    [bytes(1536), '2 kB'], [bytes(3 << 20), '3.0 MB'], [bytes(2 ** 31), '2.0 GB'], [bytes(19.2 * 2 ** 30), '19 GB'],
  ])('%s is %s', (is, wanted) => expect(is).toBe(wanted))

  it('are written as the language writes them', () => {
    formatAs({ locale: 'de-DE', decimal: ',', group: '.' })
    expect(fixed(1234.5, 1)).toBe('1.234,5')
    expect(plain(1234.5)).toBe('1.234,5')
    expect(day('2026-11-29T12:00:00Z')).toBe('29. Nov. 2026')
  })
})

describe('dates and order', () => {
  it.each([['2026-11-29', '29 Nov 2026'], ['2026-11', '2026-11'], ['2026-13-45', '2026-13-45'], ['', '']])('%s is published as %s', (date, wanted) => expect(published(date)).toBe(wanted))
  it('sorts numbers by their size', () => expect(['10', '9', 'b', 'A'].sort(collate)).toEqual(['9', '10', 'A', 'b']))
})

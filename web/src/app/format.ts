/** How values are printed. Rounding here is for showing only; every value that is
 * computed with, and every figure inside a sentence, comes from the server. */

const minus = '−'

/** How the language writes: its dates, and the signs in its numbers. The catalogue says it. */
let as = { locale: undefined as string | undefined, decimal: '.', group: ',' }
export function formatAs(how: { locale: string; decimal: string; group: string }): void {
  as = how
  formats.clear()
}

/** Making a formatter takes longer than using it a hundred times. */
const formats = new Map<string, Intl.NumberFormat>()
function numbers(options: Intl.NumberFormatOptions = {}): Intl.NumberFormat {
  const key = JSON.stringify(options)
  let known = formats.get(key)
  if (!known) formats.set(key, (known = new Intl.NumberFormat(as.locale, options)))
  return known
}

/** A size to so many decimals, its last digit rounded as it is written, halves up. The browser's
 * own formatter does the same, but making the first one takes as long as drawing a question. */
function size(x: number, decimals: number): string {
  const shifted = Math.round(Number(`${Math.abs(x)}e${decimals}`))
  if (!(shifted < 1e15)) return numbers({ minimumFractionDigits: decimals, maximumFractionDigits: decimals }).format(Math.abs(x))
  const digits = String(shifted).padStart(decimals + 1, '0')
  const point = digits.length - decimals
  const whole = digits.slice(0, point).replace(/\B(?=(\d{3})+$)/g, as.group)
  return decimals ? `${whole}${as.decimal}${digits.slice(point)}` : whole
}

export function count(n: number): string {
  return Number.isInteger(n) ? fixed(n, 0) : numbers().format(n)
}

export function fixed(x: number, decimals: number): string {
  const text = size(x, decimals)
  return x < 0 && /[1-9∞]/.test(text) ? minus + text : text
}

export function signed(x: number, decimals: number): string {
  const text = size(x, decimals)
  return /[1-9∞]/.test(text) ? (x < 0 ? minus : '+') + text : text
}

/** Up to six significant digits, for values in the respondents' own unit. */
export function plain(x: number): string {
  return numbers({ maximumSignificantDigits: 6 }).format(x).replace('-', minus)
}

/** A mean or a spread: three significant digits at least, and the decimals of the study. */
export function measured(x: number, decimals: number): string {
  const before = x === 0 ? 1 : Math.floor(Math.log10(Math.abs(x))) + 1
  return fixed(x, Math.max(decimals, Math.min(3 - before, 15), 0))
}

/** Every digit of a value as it was given. */
export function exact(x: number): string {
  return numbers({ maximumSignificantDigits: 17 }).format(x).replace('-', minus)
}

export function day(iso: string): string {
  return new Intl.DateTimeFormat(as.locale, { day: 'numeric', month: 'short', year: 'numeric' }).format(new Date(iso))
}

/** The date of a table as its publisher gives it; a full day is written as a day. */
export function published(date: string): string {
  const at = /^\d{4}-\d\d-\d\d/.test(date) ? new Date(date.slice(0, 10)) : new Date(NaN)
  if (Number.isNaN(at.getTime())) return date
  return new Intl.DateTimeFormat(as.locale, { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' }).format(at)
}

export function moment(iso: string): string {
  return new Intl.DateTimeFormat(as.locale, {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  }).format(new Date(iso))
}

export function bytes(n: number): string {
  if (n >= 2 ** 30) return `${fixed(n / 2 ** 30, n < 10 * 2 ** 30 ? 1 : 0)} GB`
  return n >= 1 << 20 ? `${fixed(n / (1 << 20), 1)} MB` : `${count(Math.ceil(n / 1024))} kB`
}

/** A significance level as a percent without needless zeros. */
export function levelText(unit: number): string {
  return `${numbers({ maximumSignificantDigits: 6 }).format(unit * 100)} %`
}

/** By the alphabet of the language, numbers by their size. */
export function collate(a: string, b: string): number {
  return a.localeCompare(b, as.locale, { numeric: true })
}

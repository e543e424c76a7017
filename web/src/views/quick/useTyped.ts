import { useUrlSearchParams } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'

import { count } from '@/app/format'
import { wholeOf } from '@/composables/useGrid'

import type { TypedCounts } from '@/api/client'

/** What can be typed into a sentence. */
export const blanks = ['yes', 'n', 'no', 'yes2', 'n2', 'mean', 'sd', 'mean2', 'sd2', 'units', 'label', 'first', 'second', 'question', 'other', 'layers', 'list'] as const
export type Blank = (typeof blanks)[number]

/** Longer cells stay out of the address, which could not carry them. */
const mostInAddress = 3000

/** What is typed for a quick check, kept behind the # of the address, which never leaves the
 * browser, and turned into the counts that are asked of. */
export function useTyped(t: (key: string, values?: Record<string, string>) => string, shape: () => string) {
  const address = useUrlSearchParams<Record<string, string | undefined>>('hash-params')
  const typed = computed(() => Object.fromEntries(blanks.map((b) => [b, address[b] ?? ''])) as Record<Blank, string>)
  const set = (blank: Blank, text: string) => (address[blank] = text || undefined)

  function cellsFrom(): string[][] {
    try {
      const found: unknown = JSON.parse(address['cells'] ?? '[]')
      return Array.isArray(found) && found.every((r) => Array.isArray(r) && r.every((c) => typeof c === 'string')) ? (found as string[][]) : []
    } catch {
      return []
    }
  }
  const cells = shallowRef<string[][]>(cellsFrom())
  const tooLong = ref(false)
  watch(cells, (c) => {
    const text = JSON.stringify(c)
    const empty = c.every((r) => r.every((cell) => cell === ''))
    tooLong.value = text.length > mostInAddress
    address['cells'] = empty || tooLong.value ? undefined : text
  })

  const name = (blank: Blank, key: string) => typed.value[blank] || t(key)
  const number = (blank: Blank) => wholeOf(typed.value[blank])
  /** Numbers stay where other ones are asked for, and count only where their blank stands. */
  const saidNo = computed(() => shape() === 'yes_no' && typed.value.no !== '')
  /** How many said no: as typed, or those asked less those who said yes. */
  const rest = computed(() => {
    if (saidNo.value) return number('no')
    const yes = number('yes')
    const n = number('n')
    return n === null || yes === null ? null : n - yes
  })
  const rest2 = computed(() => {
    const yes = number('yes2')
    const n = number('n2')
    return n === null || yes === null ? null : n - yes
  })
  /** The first of what stands where a count belongs and is none, as it was typed. */
  const noCount = computed(() => {
    const blanksOf: Record<string, Blank[]> = { yes_no: ['yes', 'n', 'no'], two_yes_no: ['yes', 'n', 'yes2', 'n2'], summary: ['n'], two_summaries: ['n', 'n2'] }
    const cellsOf: Record<string, [from: number, to: number]> = { answers: [1, 2], table: [1, Infinity], square: [1, Infinity], layers: [1, 5], numbers: [2, 3], patterns: [0, 1] }
    const typedThere = (blanksOf[shape()] ?? []).map((b) => typed.value[b])
    const within = cellsOf[shape()]
    const inCells = within && !(shape() === 'numbers' && typed.value.list.trim()) ? cells.value.slice(1).flatMap((r) => r.slice(...within)) : []
    return [...typedThere, ...inCells].map((text) => text.trim()).find((text) => text !== '' && wholeOf(text) === null)
  })
  /** Why the typed numbers cannot all be true; '' where they can. */
  const slip = computed(() => {
    if (noCount.value) return t(/^\d{1,3}\.000$/.test(noCount.value) ? 'quick.either_count' : 'quick.no_count', { text: noCount.value })
    if (saidNo.value) {
      const [yes, no, n] = [number('yes'), number('no'), number('n')]
      const apart = yes !== null && no !== null && n !== null && yes + no !== n
      return apart ? t('quick.no_sum', { sum: count(yes + no), n: count(n) }) : ''
    }
    const rests = { yes_no: [rest.value], two_yes_no: [rest.value, rest2.value] }[shape()] ?? []
    return rests.some((r) => (r ?? 0) < 0) ? t('quick.more_yes') : ''
  })

  const filled = computed(() => cells.value.filter((r, i) => i === 0 || r.slice(1).some((c) => c.trim() !== '')))
  const column = (k: number) => filled.value.slice(1).map((r) => wholeOf(r[k] ?? ''))
  const labels = computed(() => filled.value.slice(1).map((r, i) => r[0] || String(i + 1)))
  const categories = (names: string[]) => names.map((label, i) => ({ code: String(i + 1), label }))
  const whole = (list: (number | null)[]): number[] | null => (list.length > 0 && list.every((n) => n !== null) ? (list as number[]) : null)
  /** What counts may be that somebody said no; the others need a name of their own. */
  const yesNo = computed(() => {
    const yes = name('label', 'quick.yes')
    return [{ code: 'yes', label: yes }, { code: 'no', label: t(yes === t('quick.no_label') ? 'quick.not_so' : 'quick.no_label') }]
  })
  const twoGroups = computed(() => [{ code: '1', label: name('first', 'quick.first_group') }, { code: '2', label: name('second', 'quick.second_group') }])
  const asked = { key: 'q', wording: '' }
  const questionNamed = () => ({ key: 'q', short: name('question', 'quick.the_question') })
  /** A table names its groups; two of them need no name together. */
  const groupsNamed = (apart = false) => ({ key: 'g', ...(typed.value.other || !apart ? { short: name('other', 'quick.the_groups') } : { wording: '' }) })

  /** The counts of a grid of two questions; null while something lacks, for a blank is no 0. */
  function crossed(ordered: boolean, mirrored: boolean): TypedCounts | null {
    const used = (cells.value[0] ?? []).map((_, k) => k).filter((k) => k > 0 && cells.value.some((r) => (r[k] ?? '').trim() !== ''))
    const across = used.map((k) => cells.value[0]?.[k] || String(k))
    const rows = mirrored ? used.map((k) => cells.value[k] ?? []) : filled.value.slice(1)
    const counts = rows.map((r) => used.map((k) => wholeOf(r[k] ?? '')))
    if (rows.length < 2 || counts.some((r) => r.length !== across.length || whole(r) === null) || counts.flat().every((n) => n === 0)) return null
    const kind = ordered ? ('ordered' as const) : ('single' as const)
    const down = mirrored ? across : rows.map((r, i) => r[0] || String(i + 1))
    return {
      questions: [{ ...questionNamed(), kind, categories: categories(across) }, { ...groupsNamed(), kind, categories: categories(down) }],
      crosstabs: [{ rows: 'g', columns: 'q', counts: [counts as number[][]] }],
    }
  }

  /** What is typed for a shape, as counts with the keys of the questions; null while it lacks. */
  function countsFor(shape: string, ordered: boolean): { counts: TypedCounts; keys: string[] } | null {
    const of = (counts: TypedCounts | null, ...keys: string[]) => (counts ? { counts: { ...(typed.value.units ? { units: typed.value.units } : {}), ...counts }, keys } : null)
    switch (shape) {
      case 'nothing':
        return { counts: { questions: [] }, keys: [] }
      case 'yes_no': {
        const yes = number('yes')
        if (yes === null || rest.value === null || slip.value) return null
        return of({ questions: [{ ...asked, categories: yesNo.value, counts: [yes, rest.value] }] }, 'q')
      }
      case 'two_yes_no': {
        const counts = [number('yes'), rest.value, number('yes2'), rest2.value]
        if (!whole(counts) || slip.value) return null
        const [a, b, c, d] = counts as number[]
        return of(
          { questions: [{ ...asked, categories: yesNo.value }, { ...groupsNamed(true), categories: twoGroups.value }], crosstabs: [{ rows: 'g', columns: 'q', counts: [[[a!, b!], [c!, d!]]] }] },
          'q',
          'g',
        )
      }
      case 'answers': {
        const counts = whole(column(1))
        return of(counts && counts.length > 1 ? { questions: [{ ...questionNamed(), categories: categories(labels.value), counts }] } : null, 'q')
      }
      case 'patterns': {
        const items = (cells.value[0] ?? []).slice(1).map((c, i) => c || String(i + 1))
        const patterns = filled.value.slice(1).map((r) => ({ chosen: items.flatMap((_, k) => ((r[k + 1] ?? '') === '' ? [] : [String(k + 1)])), count: wholeOf(r[0] ?? '') }))
        if (patterns.length < 1 || patterns.some((p) => p.count === null)) return null
        return of({ questions: [{ ...questionNamed(), kind: 'choose_all', categories: categories(items), patterns: patterns as { chosen: string[]; count: number }[] }] }, 'q')
      }
      case 'table':
        return of(crossed(ordered, false), 'q', 'g')
      case 'square':
        return of(crossed(false, true), 'q', 'g')
      case 'layers': {
        const rows = filled.value.slice(1).map((r) => r.slice(1, 5).map((c) => wholeOf(c)))
        if (rows.length < 1 || rows.some((r) => r.length !== 4 || !whole(r))) return null
        const layers = { key: 'l', short: name('layers', 'quick.the_layers'), categories: categories(labels.value) }
        return of(
          { questions: [{ ...questionNamed(), categories: yesNo.value }, { ...groupsNamed(), categories: twoGroups.value }, layers], crosstabs: [{ rows: 'g', columns: 'q', layers: 'l', counts: rows.map((r) => [[r[0]!, r[1]!], [r[2]!, r[3]!]]) }] },
          'q',
          'g',
          'l',
        )
      }
      case 'summary':
      case 'two_summaries': {
        const two = shape === 'two_summaries'
        const summary = (n: number | null, mean: string, sd: string) => (n === null || mean === '' ? null : { n, mean, ...(sd === '' ? {} : { sd }) })
        const list = [summary(number('n'), typed.value.mean, typed.value.sd), ...(two ? [summary(number('n2'), typed.value.mean2, typed.value.sd2)] : [])]
        if (list.some((s) => s === null || (two && s.sd === undefined))) return null
        const summaries = list as { n: number; mean: string; sd?: string }[]
        const groups = two ? [{ ...groupsNamed(true), categories: twoGroups.value }] : []
        return of({ questions: [{ ...questionNamed(), kind: 'continuous', summaries }, ...groups] }, 'q', ...(two ? ['g'] : []))
      }
      case 'numbers': {
        if (typed.value.list.trim() !== '') return of({ questions: [{ ...questionNamed(), kind: 'continuous', values: typed.value.list.replaceAll('\n', ' ') }] }, 'q')
        const classes = filled.value.slice(1).map((r) => ({ from: Number(r[0]?.replace(',', '.') || NaN), to: Number(r[1]?.replace(',', '.') || NaN), n: wholeOf(r[2] ?? '') }))
        if (classes.length < 1 || classes.some((c) => Number.isNaN(c.from) || Number.isNaN(c.to) || c.n === null)) return null
        return of({ questions: [{ ...questionNamed(), kind: 'ordered', categories: classes.map((c, i) => ({ code: String(i + 1), label: `${c.from}–${c.to}`, from: c.from, to: c.to })), counts: classes.map((c) => c.n!) }] }, 'q')
      }
    }
    return null
  }

  /** Expected figures stand beside the counts, in the column after them. */
  const figures = computed(() => filled.value.slice(1).flatMap((r, i) => (r[2]?.trim() ? [{ code: String(i + 1), figure: r[2].trim() }] : [])))
  function clear() {
    for (const b of blanks) address[b] = undefined
    cells.value = []
  }
  return { address, typed, set, cells, tooLong, slip, countsFor, figures, yesNo, twoGroups, clear }
}

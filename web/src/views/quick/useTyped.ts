import { useUrlSearchParams } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'

/** What can be typed into a sentence. */
export const blanks = ['yes', 'n', 'no', 'yes2', 'n2', 'mean', 'sd', 'mean2', 'sd2', 'units', 'label', 'first', 'second', 'question', 'other', 'layers', 'list', 'effect', 'effective'] as const
export type Blank = (typeof blanks)[number]

/** Longer cells stay out of the address, which could not carry them. */
const mostInAddress = 3000

/** What is typed for a quick check, kept behind the # of the address, which never leaves the
 * browser. What it amounts to, the server says. */
export function useTyped() {
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
  /** As it is sent: the blanks that hold something, and the cells. */
  const written = computed(() => ({
    blanks: Object.fromEntries(Object.entries(typed.value).filter(([, text]) => text !== '')),
    cells: cells.value,
  }))
  function clear() {
    for (const b of blanks) address[b] = undefined
    cells.value = []
  }
  return { address, typed, set, cells, tooLong, written, clear }
}

import { onBeforeUnmount, ref, shallowRef, watch } from 'vue'

import { api } from '@/api/client'

import type { Ref } from 'vue'
import type { BookTable } from '@/api/client'

const together = 5

/** The tables of a book, those that come near the screen first; another state of the book makes them anew, with the
 * old ones shown until then. */
export function useTables(studyId: Ref<number>, book: Ref<number | null>, state: Ref<string>) {
  const captions = shallowRef<string[]>([])
  const design = shallowRef<string[]>([])
  const tables = ref(new Map<number, BookTable>())
  const error = shallowRef<Error | null>(null)
  const chance = ref('')
  const making = ref(false)
  let asked = new Set<number>()
  let stop = new AbortController()

  async function fetch(window: number) {
    if (book.value === null || asked.has(window)) return
    asked.add(window)
    const { signal } = stop
    making.value = true
    try {
      const got = await api.bookTables(studyId.value, book.value, window * together, together, signal)
      if (signal.aborted) return
      captions.value = got.captions
      design.value = got.design
      got.tables.forEach((t, i) => tables.value.set(got.from + i, t))
      for (const at of [...tables.value.keys()]) if (at >= got.captions.length) tables.value.delete(at)
      error.value = null
    } catch (cause) {
      if (signal.aborted) return
      asked.delete(window)
      error.value = cause as Error
    } finally {
      if (!signal.aborted) making.value = false
    }
  }
  /** A table has come near the screen. */
  const near = (index: number) => fetch(Math.floor(index / together))
  async function begin() {
    stop.abort()
    stop = new AbortController()
    asked = new Set()
    chance.value = ''
    const { signal } = stop
    if (book.value === null) {
      captions.value = []
      tables.value = new Map()
      return
    }
    const seen = [...new Set([0, ...[...tables.value.keys()].map((i) => Math.floor(i / together))])].slice(0, 3)
    for (const window of seen) {
      await fetch(window)
      if (signal.aborted) return
    }
    for (const at of [...tables.value.keys()]) if (!asked.has(Math.floor(at / together))) tables.value.delete(at)
    try {
      const told = await api.bookChance(studyId.value, book.value, signal)
      if (!signal.aborted) chance.value = told.said
    } catch {
      // what it says stands in every table, too
    }
  }
  watch([studyId, book, state], begin, { immediate: true })
  onBeforeUnmount(() => stop.abort())
  return { captions, design, tables, error, chance, making, near, begin }
}

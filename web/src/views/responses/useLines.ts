import { ref, shallowRef } from 'vue'

import { api } from '@/api/client'

import type { Responses } from '@/api/client'
import type { Ref } from 'vue'

export interface Find {
  question: number
  text: string
}
type Line = Responses['lines'][number]

const page = 200

/** Rows of a study, fetched a page at a time as they come into sight. */
export function useLines(study: Ref<number>, labels: Ref<boolean>, find: Ref<Find>) {
  const total = ref(0)
  const error = shallowRef<Error | null>(null)
  const pages = shallowRef(new Map<number, Line[]>())
  let under: AbortController | null = null
  const asked = new Set<number>()

  function reset() {
    under?.abort()
    under = new AbortController()
    asked.clear()
    pages.value = new Map()
  }

  async function fetchPage(n: number) {
    if (asked.has(n)) return
    asked.add(n)
    const signal = (under ??= new AbortController()).signal
    const query = new URLSearchParams({ from: String(n * page), most: String(page), labels: labels.value ? '1' : '0' })
    if (find.value.text && find.value.question) {
      query.set('question', String(find.value.question))
      query.set('text', find.value.text)
    }
    try {
      const found = await api.responses(study.value, query, signal)
      if (signal.aborted) return
      total.value = found.rows
      pages.value = new Map(pages.value).set(n, found.lines)
      error.value = null
    } catch (cause) {
      if (!signal.aborted) error.value = cause as Error
    }
  }

  function need(first: number, last: number) {
    for (let n = Math.floor(first / page); n <= Math.floor(Math.max(first, last - 1) / page); n++) void fetchPage(n)
  }

  const line = (i: number): Line | undefined => pages.value.get(Math.floor(i / page))?.[i % page]
  return { total, line, need, reset, error }
}

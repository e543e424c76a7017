import { useQueries } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

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
  /** The pages that were in sight, and how often all was loaded anew. */
  const wanted = ref<number[]>([])
  const round = ref(0)
  const query = computed(() => ({
    labels: labels.value ? ('1' as const) : ('0' as const),
    ...(find.value.text && find.value.question ? { question: find.value.question, text: find.value.text } : {}),
  }))
  const pages = useQueries({
    queries: computed(() => wanted.value.map((n) => ({
      queryKey: ['responses', study.value, query.value, round.value, n],
      queryFn: ({ signal }: { signal: AbortSignal }) => api.responses(study.value, { from: n * page, most: page, ...query.value }, signal),
      staleTime: Infinity,
      gcTime: 0,
    }))),
  })
  const found = computed(() => new Map<number, Line[]>(pages.value.flatMap((p, i) => (p.data ? [[wanted.value[i]!, p.data.lines]] : []))))
  const total = computed<number>((before) => pages.value.find((p) => p.data)?.data?.rows ?? before ?? 0)
  const error = computed(() => pages.value.find((p) => p.error)?.error ?? null)

  function reset() {
    wanted.value = []
    round.value++
  }
  function need(first: number, last: number) {
    const from = Math.floor(first / page)
    const many = Math.floor(Math.max(first, last - 1) / page) - from + 1
    const more = Array.from({ length: many }, (_, i) => from + i).filter((n) => !wanted.value.includes(n))
    if (more.length) wanted.value = [...wanted.value, ...more]
  }

  const line = (i: number): Line | undefined => found.value.get(Math.floor(i / page))?.[i % page]
  return { total, line, need, reset, error }
}

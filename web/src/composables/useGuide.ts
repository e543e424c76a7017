import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { api } from '@/api/client'

/** What is usually asked at a place. */
const ofPlace: Record<string, string> = {
  studies: 'bring-a-file-in',
  intake: 'bring-a-file-in',
  check: 'check-whether-it-arrived-right',
  topline: 'tally',
  shares: 'compare-with-published-shares',
  claims: 'compare-with-published-shares',
  codebook: 'estimate-the-population',
  responses: 'check-whether-it-arrived-right',
  report: 'report',
}

/** The how-tos, the one that serves where one is, and those that speak of something. */
export function useGuide() {
  const route = useRoute()
  const { data, error } = useQuery({ queryKey: ['guide'], queryFn: ({ signal }) => api.guide(signal), staleTime: Infinity, gcTime: Infinity })
  const pages = computed(() => data.value?.pages ?? [])
  const here = computed(() => ofPlace[route.path.split('/').at(-1)!] ?? ofPlace[route.meta.place] ?? '')
  const texts = computed(() => new Map(pages.value.map((p) => [p.name, JSON.stringify([p.title, p.blocks]).toLowerCase()])))
  const speakOf = (typed: string) => {
    const words = typed.toLowerCase().split(/\s+/)
    return pages.value.filter((p) => words.every((w) => texts.value.get(p.name)!.includes(w)))
  }
  return { pages, here, speakOf, error }
}

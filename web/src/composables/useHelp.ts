import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api } from '@/api/client'

/** Short explanations by the key of a figure or the name of a method; they never change while
 * the page is open. */
export function useHelp() {
  const { data } = useQuery({ queryKey: ['help'], queryFn: ({ signal }) => api.help(signal), staleTime: Infinity, gcTime: Infinity })
  const topics = computed(() => new Map((data.value?.topics ?? []).flatMap((topic) => topic.for.map((key) => [key, topic] as const))))
  return { topics }
}

import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api } from '@/api/client'

/** How each method is asked, as the server tells it; it never changes while the page is open. */
export function useMethods() {
  const { data, error } = useQuery({
    queryKey: ['methods'],
    queryFn: ({ signal }) => api.methods(signal),
    staleTime: Infinity,
    gcTime: Infinity,
  })
  const byName = computed(() => new Map((data.value?.methods ?? []).map((m) => [m.name, m])))
  const proposals = computed(() => data.value?.proposals ?? [])
  const settled = computed(() => data.value !== undefined || error.value !== null)
  return { byName, proposals, settled, error }
}

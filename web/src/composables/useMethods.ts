import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api } from '@/api/client'

import type { Method } from '@/api/client'

/** What describes without asking anything more stands at once; everything else has a form. */
export const opensForm = (m: Method): boolean => m.mode === 'tests' || m.questions.length > 1 || m.more === 'others' || hasBlanks(m)
/** A description can have blanks of its own, too; those of what may be tested later are of the test. */
export const hasBlanks = (m: Method): boolean => m.mode === 'describes' && m.inputs.some((i) => i.needed)

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

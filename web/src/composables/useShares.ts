import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api } from '@/api/client'
import { queries } from '@/app/queries'

const queryKey = ['shares']

/** The shelf of shares, which all places see alike; what is drawn at the same time asks for it once. */
export function useShares() {
  const { data, error, isFetching } = useQuery({ queryKey, queryFn: ({ signal }) => api.shareSets(signal), staleTime: 2000 })
  const sets = computed(() => data.value?.sets ?? [])
  return { sets, error, loading: isFetching, again: () => queries.invalidateQueries({ queryKey }) }
}

import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api } from '@/api/client'
import { queries } from '@/app/queries'

const queryKey = ['shares']

/** The shelf of shares, which all places see alike. */
export function useShares() {
  const { data, error, isFetching } = useQuery({ queryKey, queryFn: ({ signal }) => api.shareSets(signal) })
  const sets = computed(() => data.value?.sets ?? [])
  return { sets, error, loading: isFetching, again: () => queries.invalidateQueries({ queryKey }) }
}

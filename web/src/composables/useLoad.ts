import { hashKey, useQuery } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, watch } from 'vue'

import { ApiError } from '@/api/client'
import { queries } from '@/app/queries'
import { useSession } from '@/app/session'

/** Loads what a place shows of the studies. The key names it, the study's number first; what
 * was loaded under it is shown at once and loaded anew. Another subgroup of the same study
 * leaves the page as it was until it is there. `follows` says that the page itself brings up
 * to date what its edits change. */
export function useLoad<T>(key: () => readonly unknown[], get: (signal: AbortSignal) => Promise<T>, follows = false) {
  const queryKey = computed(() => ['studies', ...key()])
  const query = useQuery<T>({
    queryKey,
    queryFn: ({ signal }) => get(signal),
    placeholderData: (before, of) => (of?.queryKey[1] === queryKey.value[1] ? before : undefined),
    meta: { follows },
    shallow: true, // what came is replaced, never changed in place
  })
  const data = computed({
    get: () => query.data.value ?? null,
    set: (shown) => queries.setQueryData(queryKey.value, shown),
  })
  const session = useSession()
  watch(query.error, (error) => {
    if (error instanceof ApiError && error.isGone) session.leave(Number(key()[0]))
  })
  let begun = ''
  let gone = false
  onBeforeUnmount(() => (gone = true))

  /** Loads anew, and gives what came; null when it failed or is no longer wanted. */
  async function run(): Promise<T | null> {
    const mine = hashKey(queryKey.value)
    const first = begun !== mine // opening the page has begun to load it
    begun = mine
    const { data: found, isError } = await query.refetch({ cancelRefetch: !first })
    return gone || isError || mine !== hashKey(queryKey.value) ? null : (found ?? null)
  }

  return { data, loading: query.isFetching, error: query.error, run }
}

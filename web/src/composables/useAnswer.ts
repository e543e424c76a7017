import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'

/** What the server says of what is being typed: asked when the typing pauses, and the last request
 * wins. Nothing is asked where there is no question; meanwhile the answer before stands. */
export function useAnswer<Q, A>(name: string, question: () => Q | null, ask: (question: Q, signal: AbortSignal) => Promise<A>, pause = 200) {
  const now = computed(() => {
    const q = question()
    return q === null ? '' : JSON.stringify(q)
  })
  const asked = refDebounced(now, pause)
  const query = useQuery<A>({
    queryKey: computed(() => [name, asked.value]),
    queryFn: ({ signal }) => ask(JSON.parse(asked.value) as Q, signal),
    enabled: computed(() => asked.value !== ''),
    placeholderData: keepPreviousData,
    gcTime: 0,
    shallow: true,
  })
  const answer = computed(() => (now.value === '' ? null : (query.data.value ?? null)))
  /** The answer is to what stands there now. */
  const settled = computed(() => now.value !== '' && now.value === asked.value && !query.isFetching.value && !query.isPlaceholderData.value)
  const error = computed(() => (now.value === '' ? null : query.error.value))
  return { answer, settled, error }
}

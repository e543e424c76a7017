import { QueryClient } from '@tanstack/vue-query'

/** How long is waited before the server, or its database, is asked again that did not answer, and how often a page does. */
export const askAgain = 2500
const mostAgain = 200
const isPassing = (e: unknown) => (e as { isPassing?: boolean }).isPassing === true

/** What was loaded, for every place. What a study shows may change with any edit, in this
 * tab or another: it is loaded anew when a place is opened or the window is looked at again. */
export const queries = new QueryClient({
  defaultOptions: { queries: { retry: (failures, e) => isPassing(e) && failures < mostAgain, retryDelay: askAgain, networkMode: 'always' } },
})

/** After an edit that changes every figure: all that is on the page is loaded anew. */
export const anew = () => queries.invalidateQueries({ queryKey: ['studies'], refetchType: 'active' })

/** After an edit: what is not on the page is forgotten, so that nothing outdated is shown
 * when it is opened; what is on the page is loaded anew, unless the page does so itself. */
export function edited() {
  const ofStudies = (query: { queryKey: readonly unknown[] }) => query.queryKey[0] === 'studies'
  queries.removeQueries({ predicate: ofStudies, type: 'inactive' })
  void queries.invalidateQueries({ predicate: (query) => ofStudies(query) && !query.meta?.follows, refetchType: 'active' })
}

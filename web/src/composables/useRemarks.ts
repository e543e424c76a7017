import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { api } from '@/api/client'
import { queries } from '@/app/queries'
import { isLooking } from '@/app/who'

import type { Remarks } from '@/api/client'

/** What people have written into the margin of a study, asked for once for the whole page. */
export function useRemarks(study: () => number) {
  const queryKey = computed(() => ['studies', study(), 'remarks'])
  const { data } = useQuery({ queryKey, queryFn: ({ signal }) => api.remarks(study(), signal), enabled: () => !isLooking.value, meta: { follows: true } })
  const threads = computed(() => data.value?.threads ?? [])
  const put = (list: Remarks) => queries.setQueryData(queryKey.value, list)
  return { threads, put }
}

import { computed, onMounted } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { kept } from '@/app/kept'

import type { Seen } from '@/api/client'

/** Of whom a percent column speaks. */
export type Base = 'answered' | 'everyone'

/** How tallies are shown. The address holds it, for the page and, where it was chosen for one
 * question, for that one. */
export interface View extends Seen {
  base: Base
  codes: boolean
  cumulative: boolean
  proportions: boolean
}
export const orders = ['asked', 'size', 'label'] as const
type Query = Record<string, string | undefined>

const own = (number: number) => `q${number}`

/** What is chosen once for the study, and for its questions; whom it is about is not kept. */
const isKept = (name: string) => ['base', 'order', 'codes', 'cumulative', 'as'].includes(name) || /^q\d+$/.test(name)
const lastView = (study: string) => kept<Query>(`view/${study}`)

export function useView() {
  const route = useRoute()
  const router = useRouter()
  const study = computed(() => String(route.params.study))

  /** An address that says nothing of it opens as the study was seen last. */
  onMounted(() => {
    const last = lastView(study.value).value
    if (last === null || Object.keys(route.query).some(isKept)) return
    void router.replace({ query: { ...last, ...route.query }, hash: route.hash })
  })

  const view = computed<View>(() => ({
    of: route.query.of ? Number(route.query.of) : null,
    order: orders.find((o) => o === route.query.order) ?? 'asked',
    base: route.query.base === 'everyone' ? 'everyone' : 'answered',
    codes: route.query.codes === '1',
    cumulative: route.query.cumulative === '1',
    proportions: route.query.as === 'proportions',
  }))

  function viewOf(number: number): View {
    const chosen = route.query[own(number)]
    if (typeof chosen !== 'string') return view.value
    const words = chosen.split('.')
    return {
      ...view.value,
      order: orders.find((o) => words.includes(o)) ?? 'asked',
      base: words.includes('everyone') ? 'everyone' : 'answered',
      cumulative: words.includes('cumulative'),
      proportions: words.includes('proportions'),
    }
  }

  function set(change: Query) {
    const query = { ...route.query, ...change }
    if (Object.keys(change).some(isKept)) {
      lastView(study.value).value = Object.fromEntries(Object.entries(query).filter(([name]) => isKept(name))) as Query
    }
    void router.replace({ query, hash: route.hash })
  }
  /** Chooses for one question; what the page shows anyhow is not written down. */
  function setFor(number: number, change: Partial<View>) {
    const now = { ...viewOf(number), ...change }
    const page = view.value
    const same = now.order === page.order && now.base === page.base && now.cumulative === page.cumulative && now.proportions === page.proportions
    const words = [now.order, now.base, ...(now.cumulative ? ['cumulative'] : []), ...(now.proportions ? ['proportions'] : [])]
    set({ [own(number)]: same ? undefined : words.join('.') })
  }

  return { view, viewOf, set, setFor }
}

import { effectScope } from 'vue'

import { kept } from '@/app/kept'

import type { Ref } from 'vue'

/** So many are remembered of a study, those of last. */
const most = 300

/** What can be folded: an analysis, or the long list of a question. */
export type Foldable = `a${number}` | `q${number}`

const studies = new Map<number, Ref<Foldable[] | null>>()
/** What was unfolded of a study stays so in this browser; what was just stated stands unfolded, too. */
export function unfoldedOf(study: number) {
  let list = studies.get(study)
  if (!list) {
    list = effectScope(true).run(() => kept<Foldable[]>(`open/${study}`))!
    studies.set(study, list)
  }
  return list
}

export const isUnfolded = (study: number, what: Foldable) => unfoldedOf(study).value?.includes(what) ?? false
export function unfold(study: number, what: Foldable, open = true) {
  if (isUnfolded(study, what) === open) return
  const list = unfoldedOf(study)
  const others = (list.value ?? []).filter((one) => one !== what)
  list.value = (open ? [...others, what] : others).slice(-most)
}

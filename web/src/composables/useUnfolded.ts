import { effectScope } from 'vue'

import { kept } from '@/app/kept'

import type { Ref } from 'vue'

/** So many are remembered of a study, those of last. */
const most = 300
const studies = new Map<number, Ref<number[] | null>>()
function listOf(study: number) {
  let list = studies.get(study)
  if (!list) {
    list = effectScope(true).run(() => kept<number[]>(`unfolded/${study}`))!
    studies.set(study, list)
  }
  return list
}

/** What was unfolded of the analyses of a study stays so in this browser; what was just stated stands
 * unfolded, too. */
export const isUnfolded = (study: number, analysis: number) => listOf(study).value?.includes(analysis) ?? false
export function unfold(study: number, analysis: number, open = true) {
  const list = listOf(study)
  const others = (list.value ?? []).filter((id) => id !== analysis)
  list.value = (open ? [...others, analysis] : others).slice(-most)
}

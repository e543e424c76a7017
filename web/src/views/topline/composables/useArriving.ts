import { nextTick, watch } from 'vue'
import { useRoute } from 'vue-router'

import { furnishedWith } from '@/app/later'

import { anchor } from '../groups'

import type { Outlined } from '@/api/client'
import type { Ref } from 'vue'

/** Where somebody arrives who comes with an address: at a question, or at an analysis under one that
 * may not be drawn yet. */
export function useArriving(outline: () => Outlined[], named: () => Outlined | undefined, whole: Ref<boolean>) {
  const route = useRoute()
  function toHash() {
    if (!route.hash) return
    const question = named() ?? outline().find((q) => q.analyses.includes(Number(/^#a(\d+)$/.exec(route.hash)?.[1])))
    const there = document.getElementById(route.hash.slice(1)) ?? (named() && document.getElementById(anchor(question!)))
    if (there) return there.scrollIntoView({ block: 'start' })
    if (!whole.value && outline().length) {
      whole.value = true // it is beyond what stands there first
      return void nextTick(toHash)
    }
    if (question) document.getElementById(anchor(question))?.scrollIntoView({ block: 'start' })
  }
  watch(() => route.hash, () => nextTick(toHash))

  /** What is opened most comes before the rest of the questions is drawn: styles that come later
   * would have the browser look at all of them anew. Who opens it is told if it cannot be fetched. */
  const formsFetched = furnishedWith(() => Promise.all([
    import('../components/AnalysisForm.vue'),
    import('@/components/MenuList.vue'),
    import('@/components/QuickFind.vue'),
    import('@/components/document/ChoiceEntry.vue'),
  ]))
  return { toHash, formsFetched }
}

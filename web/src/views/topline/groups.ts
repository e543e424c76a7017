import { computed } from 'vue'

import { mostShown } from './longList'

import type { Outlined } from '@/api/client'
import type { Ref } from 'vue'

/** The place of a question on the page. */
export const anchor = (q: { number: number }) => `q${q.number}`

/** How high a question is about, until it is drawn. */
export const roomFor = (q: Outlined) => 150 + 31 * (Math.min(q.answers, mostShown) + 4 * q.analyses.length)

/** The browser lays out a group of a long questionnaire only when it comes near. */
const grouped = 40

/** The questions in groups, each with the room that it takes. What is near the first that is shown is
 * there at once, the others once the whole is wanted. */
export function useGroups(outline: () => Outlined[], whole: Readonly<Ref<boolean>>, firstShown: () => number) {
  return computed(() => {
    const all = outline()
    const out = []
    for (let at = 0; at < all.length; at += grouped) {
      const questions = all.slice(at, at + grouped).map((q, i) => ({ q, heads: q.section !== (all[at + i - 1]?.section ?? '') }))
      const first = firstShown()
      const soon = whole.value || (first > at - grouped && first <= at + 2 * grouped)
      out.push({ key: at, questions: soon ? questions : [], room: questions.reduce((sum, { q }) => sum + roomFor(q), 0) })
    }
    return out
  })
}

import { useRoute, useRouter } from 'vue-router'

import { presetKey, presets } from '@/app/presets'
import { questionHash } from '@/app/questionHash'

import type { NextAsk, Outlined, Spec, Who } from '@/api/client'
import type { Ref } from 'vue'
import type { View } from './useView'

interface Page {
  outline: Readonly<Ref<Outlined[]>>
  view: Readonly<Ref<View>>
  failed: Ref<Error | null>
  subgroup: (who: { question: number; code: string }[]) => Promise<number>
  look: (of: number) => void
}

/** What can be asked next from a result: another method, the same of another question, or the same
 * page among those of a cell. */
export function useAskNext({ outline, view, failed, subgroup, look }: Page) {
  const route = useRoute()
  const router = useRouter()
  const those = (who: Who[], questions: string[]) => subgroup(who.map((w) => ({ question: Number(questions[w.question]), code: w.code })))
  const goTo = (asked: Outlined, of: string | undefined, ask: string) =>
    router.push({ query: { ...route.query, of, ask }, hash: questionHash(asked) })
  async function tried(work: () => Promise<unknown>) {
    failed.value = null
    try {
      await work()
    } catch (cause) {
      failed.value = cause as Error
    }
  }

  /** Opens another method where it was asked for, among those whom it is about. */
  const askNext = (next: NextAsk, questions: string[]) => tried(async () => {
    const asked = outline.value.find((q) => String(q.id) === questions[next.question])
    if (!asked) return
    const of = next.among.length ? await those(next.among, questions) : view.value.of
    const others = next.others.map((place) => questions[place] ?? '')
    if (others.length || Object.keys(next.settings).length) presets.set(presetKey(asked.id, next.method), { settings: next.settings, others })
    await goTo(asked, of === null ? undefined : String(of), next.method)
  })
  /** Opens the form of a claim under another question, with what can be carried over. */
  async function askLike(question: number, spec: Spec, settings: Record<string, unknown>) {
    const asked = outline.value.find((q) => q.id === question)
    if (!asked) return
    presets.set(presetKey(question, spec.method), { settings, others: spec.questions.slice(1) })
    await goTo(asked, spec.subgroup || undefined, spec.method)
  }
  const lookAt = (who: Who[], questions: string[]) => tried(async () => look(await those(who, questions)))
  return { askNext, askLike, lookAt }
}

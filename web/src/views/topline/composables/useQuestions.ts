import { onBeforeUnmount, shallowRef, watch } from 'vue'

import { api } from '@/api/client'
import { useLoad } from '@/composables/useLoad'

import type { Question, Topline, Window } from '@/api/client'
import type { ComputedRef, Ref } from 'vue'
import type { View } from './useView'

/** A questionnaire up to this long is there at once; of a longer one, what comes near the
 * screen. */
export const mostAtOnce = 60
/** How many questions one request asks for, and how many are kept up to date by an edit. */
const batch = 40
const mostKept = 160
const gather = 40

/** The page: what is known of every question, and those that were tabulated so far. */
export function useQuestions(study: Ref<number>, view: ComputedRef<View>, viewOf: (number: number) => View, first: () => number) {
  const loaded = shallowRef(new Map<number, Question>())
  let of = 0
  const window = (): Window => {
    const ids = of === study.value ? [...loaded.value.keys()].slice(-mostKept) : []
    return ids.length ? { ids } : { from: first() < mostAtOnce ? 1 : first() - 4, many: mostAtOnce }
  }
  const { data, loading, error, run } = useLoad<Topline>(
    () => [study.value, 'topline', view.value.of, view.value.order],
    (signal) => api.topline(study.value, view.value, window(), signal),
    true,
  )

  /** Those for which another order was chosen come by themselves. */
  async function reorder(list: Question[]) {
    for (const q of list) {
      const seen = viewOf(q.number)
      if (seen.order !== view.value.order) put([await api.question(study.value, q.id, seen)])
    }
  }
  function put(list: Question[]) {
    const now = new Map(loaded.value)
    for (const q of list) now.set(q.id, q)
    loaded.value = now
  }
  /** The page is put together here; what was loaded beside it stays. */
  let patching = false
  watch(data, (page) => {
    if (!page || page.study.id !== study.value || patching) return
    of = page.study.id
    loaded.value = new Map(page.questions.map((q) => [q.id, q]))
    void reorder(page.questions)
  }, { immediate: true, flush: 'sync' })

  const wanted = new Set<number>()
  /** Why questions that are near could not be loaded. */
  const missing = shallowRef<Error | null>(null)
  let timer = 0
  async function fetchWanted() {
    timer = 0
    const key = JSON.stringify([study.value, view.value.of, view.value.order])
    const ids = [...wanted].filter((id) => !loaded.value.has(id)).slice(0, batch)
    if (!ids.length) return wanted.clear()
    missing.value = null
    try {
      const { questions } = await api.questions(study.value, view.value, { ids })
      if (key !== JSON.stringify([study.value, view.value.of, view.value.order])) return
      for (const id of ids) wanted.delete(id)
      put(questions)
      await reorder(questions)
      if (wanted.size) await fetchWanted()
    } catch (cause) {
      missing.value = cause as Error
    }
  }
  /** A question came near the screen. */
  function want(id: number) {
    if (loaded.value.has(id)) return
    wanted.add(id)
    timer ||= globalThis.setTimeout(() => void fetchWanted(), gather) as unknown as number
  }
  onBeforeUnmount(() => clearTimeout(timer))

  /** A question as it is after an edit of it. */
  function replace(q: Question) {
    put([q])
    const page = data.value
    if (!page) return
    const next = {
      ...page,
      questions: page.questions.some((x) => x.id === q.id) ? page.questions.map((x) => (x.id === q.id ? q : x)) : page.questions,
      outline: page.outline.map((o) =>
        o.id === q.id ? { ...o, wording: q.wording, short: q.short, section: q.section, kind: q.kind, analyses: q.analyses.map((a) => a.id) } : o,
      ),
    }
    patching = true
    data.value = next
    patching = false
  }

  /** After an edit of one question: it, and what the page says of all, such as what can be
   * taken back. */
  async function changed(q: Question) {
    replace(q)
    const fresh = await api.topline(study.value, view.value, { ids: [q.id] }).catch(() => null)
    const page = data.value
    if (!fresh || !page || fresh.study.id !== page.study.id) return
    patching = true
    data.value = { ...fresh, questions: page.questions }
    patching = false
  }

  return { data, changed, loading, error, run, loaded, want, fetchWanted, missing, replace, window }
}

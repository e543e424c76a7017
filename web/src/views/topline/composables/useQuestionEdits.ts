import { useRoute, useRouter } from 'vue-router'

import { api } from '@/api/client'
import { did } from '@/app/firstSteps'
import { questionHash } from '@/app/questionHash'
import { applyRemedy } from '@/api/remedy'
import { useAttempt } from '@/composables/useAttempt'

import type { DerivedEdit, Note, Question, QuestionEdit, Study, Topline, Window } from '@/api/client'
import type { View } from './useView'

interface Edited {
  question: Question
  study: Study
  view: View
  drawn: () => Window
}

/** What can be changed of a question on the page; `on` hears what an edit brings. */
export function useQuestionEdits(
  props: Edited,
  on: { changed: (question: Question) => void; page: (page: Topline) => void; reload: () => void; derived: () => void },
) {
  const route = useRoute()
  const router = useRouter()
  const { error, attempt: tried } = useAttempt()

  /** What an edit gives back is the question as it is then. */
  async function attempt(work: () => Promise<Question | void>) {
    const done = await tried(work)
    if (done?.value) on.changed(done.value)
    return done !== null
  }
  const edit = (change: QuestionEdit) =>
    attempt(async () => {
      on.page(await api.editOnPage(props.study.id, props.question.id, props.question.version, change, props.view, props.drawn()))
    })
  function relabel(slot: number, label: string) {
    const answers = props.question.answers.map(({ slot: at, label: was, missing, sameAs, score }) => ({ slot: at, label: at === slot ? label : was, missing, sameAs, score }))
    return edit({ answers })
  }
  async function remedy(r: NonNullable<Note['remedy']>) {
    if (await attempt(async () => void (await applyRemedy(props.study.id, props.question, r)))) on.reload()
  }
  /** A question made of this one stands after it, where one is taken. */
  async function derive(body: DerivedEdit) {
    const done = await tried(() => api.addDerived(props.study.id, body))
    if (!done) return
    on.derived()
    on.reload()
    await router.push({ query: route.query, hash: questionHash(done.value) })
  }
  const select = () =>
    attempt(async () => {
      await api.selectQuestion(props.study.id, props.question.id, !props.question.selected, props.view)
      did('report')
      on.reload()
    })
  /** The counts as they are shown become shares that other questions can be held against. */
  async function shelve() {
    if (await tried(() => api.toShelf(props.study.id, props.question.id, props.view))) await router.push('/shares')
  }
  /** Rebuilds a damaged column, after which everything that rests on it is shown anew. */
  async function rebuild(id: number) {
    if (await attempt(async () => void (await api.repair(props.study.id, id)))) on.reload()
  }
  async function reload() {
    await attempt(() => api.question(props.study.id, props.question.id, props.view))
  }
  return { error, attempt, edit, relabel, remedy, derive, select, shelve, rebuild, reload }
}

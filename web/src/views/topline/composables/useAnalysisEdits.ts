import { nextTick } from 'vue'

import { api } from '@/api/client'
import { did } from '@/app/firstSteps'
import { useAttempt } from '@/composables/useAttempt'

import { useLook } from './useLook'

import type { Analysis, Change, Question, Study } from '@/api/client'
import type { View } from './useView'

interface Of {
  analysis: Analysis
  question: Question
  study: Study
  view: View
}

/** What is done to something that was asked. What an edit gives back is the question as it is then. */
export function useAnalysisEdits(of: Of, changed: (question: Question) => void) {
  const { error, attempt: tried } = useAttempt()
  async function attempt(work: () => Promise<Question | void>) {
    const done = await tried(work)
    if (done?.value) changed(done.value)
    return done !== null
  }

  const run = () => attempt(() => api.runAnalysis(of.study.id, of.analysis.id, of.view))
  /** Quick presses wait for each other, so that each builds on the one before. */
  let last: Promise<unknown> = Promise.resolve()
  function change(c: Change, look = false) {
    last = last.then(async () => {
      const before = of.analysis.look
      const done = await attempt(() => api.changeAnalysis(of.study.id, of.analysis.id, of.analysis.version, c, of.view, look))
      await nextTick()
      if (done) looked(before, of.analysis.look)
    })
  }
  const { looked } = useLook(
    of.study.id,
    () => of.analysis,
    (c) => change(c, true), // an address may ask for a look, and for nothing else
  )
  const reload = () => attempt(() => api.question(of.study.id, of.question.id, of.view))
  const select = () =>
    attempt(async () => {
      await api.selectAnalysis(of.study.id, of.analysis.id, !of.analysis.selected)
      did('report')
      return api.question(of.study.id, of.question.id, of.view)
    })
  /** Gives the question an answer that nobody chose. */
  const answer = (code: string) =>
    attempt(() => api.editQuestion(of.study.id, of.question.id, of.question.version, { newAnswer: { code, label: '' } }, of.view))
  const seen = (id: string, is: boolean, reason: string) =>
    attempt(() => api.answerNote(of.study.id, of.analysis.id, id, is, reason, of.view))
  return { error, attempt, run, change, select, answer, seen, reload }
}

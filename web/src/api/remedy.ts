import { api } from './client'

import type { Kind, Remedy } from './client'

interface Cured {
  id: number
  version: number
  wording: string
}

/** Does what one press promises about something noticed in a question. A change of an
 * analysis is for whoever shows it. */
export function applyRemedy(study: number, q: Cured, r: Remedy): Promise<unknown> {
  const one = [{ id: q.id, version: q.version }]
  const actions = {
    missing: () => api.editMany(study, { questions: one, missing: { [r.code]: r.reason } }),
    same: () => api.editMany(study, { questions: one, sameAs: { [r.code]: r.other } }),
    kind: () => api.editMany(study, { questions: one, kind: r.kind as Kind }),
    counts: () => api.setCounts(study, q.id),
    parts: () => api.addDerived(study, { wording: q.wording, derivation: { rule: 'parts', sources: [q.id], separator: r.separator } }),
    answer: () => api.editQuestion(study, q.id, q.version, { newAnswer: { code: r.code, label: '' } }),
    change: () => Promise.resolve(),
    ask: () => Promise.resolve(),
    merge: () => Promise.resolve(),
  }
  return actions[r.action]()
}

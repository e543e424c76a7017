import { api } from '@/api/client'

import type { Cure, Kind } from '@/api/client'

interface Cured {
  id: number
  version: number
  wording: string
}

/** Does what one press promises about something noticed in a question. */
export function cure(study: number, q: Cured, c: Cure): Promise<unknown> {
  const one = [{ id: q.id, version: q.version }]
  const actions = {
    missing: () => api.editMany(study, { questions: one, missing: { [c.code]: c.reason } }),
    same: () => api.editMany(study, { questions: one, sameAs: { [c.code]: c.other } }),
    kind: () => api.editMany(study, { questions: one, kind: c.kind as Kind }),
    counts: () => api.setCounts(study, q.id),
    parts: () => api.addDerived(study, { wording: q.wording, derivation: { rule: 'parts', sources: [q.id], separator: c.separator } }),
  }
  return actions[c.action]()
}

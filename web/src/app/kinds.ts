import type { Kind } from '@/api/client'

/** The kinds to choose from where one press changes one question. That a question counts
 * the rows changes every figure, so that is asked about in the arrival check. */
export const kindsHere = (q: { kind: Kind; mayBecome: Kind[] }): Kind[] => q.mayBecome.filter((k) => k !== 'count' || k === q.kind)

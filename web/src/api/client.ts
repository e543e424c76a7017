/** The only place that talks to the server. Types come from the server's own description. */
import type { components } from './schema_gen'

type Schemas = components['schemas']
export type Study = Schemas['Study']
export type StudyEdit = Schemas['StudyEdit']
export type NewStudy = Schemas['NewStudy']
export type Settings = Schemas['Settings']
export type Arrival = Schemas['Arrival']
export type IntakeProblem = Schemas['IntakeProblem']
export type Topline = Schemas['Topline']
export type Question = Schemas['Question']
export type QuestionEdit = Schemas['QuestionEdit']
export type Answer = Schemas['Answer']
export type AnswerRow = Schemas['AnswerRow']
export type Numeric = Schemas['Numeric']
export type Note = Schemas['Note']
export type Claim = Schemas['Claim']
export type Statement = Schemas['Statement']
export type SharesEntry = Schemas['SharesEntry']
export type SharesCheck = Schemas['SharesCheck']
export type GoodnessOfFit = Schemas['GoodnessOfFit']
export type Kind = Schemas['Kind']
export type Mode = Schemas['Mode']
export type Role = Schemas['Role']
export type ReferenceKind = Schemas['ReferenceKind']

/** A refusal of the server, or that it could not be reached (status 0). */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    title: string,
    readonly pointer?: string,
  ) {
    super(title)
    this.name = 'ApiError'
  }

  /** The edit built on a version that is no longer the newest. */
  get isStale(): boolean {
    return this.status === 412
  }
}

interface Options {
  body?: unknown
  version?: number
  signal?: AbortSignal
}

async function send<T>(method: string, path: string, options: Options = {}): Promise<T> {
  const headers: Record<string, string> = {}
  let body: BodyInit | null = null
  if (options.body instanceof Blob) {
    headers['Content-Type'] = 'application/octet-stream'
    body = options.body
  } else if (options.body !== undefined) {
    headers['Content-Type'] = 'application/json'
    body = JSON.stringify(options.body)
  }
  if (options.version !== undefined) headers['If-Match'] = `"${options.version}"`
  let response: Response
  try {
    response = await fetch('/api/v1' + path, { method, headers, body, signal: options.signal ?? null })
  } catch (cause) {
    if (cause instanceof DOMException && cause.name === 'AbortError') throw cause
    throw new ApiError(0, 'unreachable', '')
  }
  if (response.status === 204) return undefined as T
  const data: unknown = await response.json().catch(() => null)
  if (!response.ok) {
    const problem = data as Partial<Schemas['Problem']> | null
    throw new ApiError(response.status, problem?.code ?? 'unknown', problem?.title ?? response.statusText, problem?.pointer)
  }
  return data as T
}

const question = (study: number, id: number) => `/studies/${study}/questions/${id}`
const claim = (study: number, id: number) => `/studies/${study}/claims/${id}`

export const api = {
  listStudies: (signal?: AbortSignal) => send<Schemas['StudyList']>('GET', '/studies', signal ? { signal } : {}),
  createStudy: (body: NewStudy) => send<Study>('POST', '/studies', { body }),
  editStudy: (id: number, version: number, body: StudyEdit) => send<Study>('PATCH', `/studies/${id}`, { body, version }),
  deleteStudy: (id: number) => send<void>('DELETE', `/studies/${id}`),
  restoreStudy: (id: number) => send<Study>('POST', `/studies/${id}/restore`),
  limits: () => send<Schemas['Limits']>('GET', '/limits'),
  arrive: (name: string, body: Blob, signal: AbortSignal) => send<Arrival>('POST', `/arrivals?name=${encodeURIComponent(name)}`, { body, signal }),
  lookAgain: (id: string, body: Settings) => send<Arrival>('POST', `/arrivals/${id}/look`, { body }),
  discardArrival: (id: string) => send<void>('DELETE', `/arrivals/${id}`),
  topline: (id: number, signal?: AbortSignal) => send<Topline>('GET', `/studies/${id}/topline`, signal ? { signal } : {}),
  question: (study: number, id: number) => send<Question>('GET', question(study, id)),
  editQuestion: (study: number, id: number, version: number, body: QuestionEdit) => send<Question>('PATCH', question(study, id), { body, version }),
  checkShares: (study: number, id: number, body: SharesEntry, signal: AbortSignal) => send<SharesCheck>('POST', question(study, id) + '/shares', { body, signal }),
  stateClaim: (study: number, id: number, body: Statement) => send<Question>('POST', question(study, id) + '/claims', { body }),
  editClaim: (study: number, id: number, version: number, body: Statement) => send<Question>('PUT', claim(study, id), { body, version }),
  runClaim: (study: number, id: number) => send<Question>('POST', claim(study, id) + '/run'),
  deleteClaim: (study: number, id: number) => send<void>('DELETE', claim(study, id)),
  restoreClaim: (study: number, id: number) => send<Question>('POST', claim(study, id) + '/restore'),
}

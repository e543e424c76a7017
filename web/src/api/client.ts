/** The only place that talks to the server. Types come from the server's own description. */
import { edited } from '@/app/queries'

import { ask, early, forget } from './early'

import type { Came } from './early'
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
export type SharesEntry = Schemas['SharesEntry']
export type SharesCheck = Schemas['SharesCheck']
export type Kind = Schemas['Kind']
export type ColumnChoice = Schemas['ColumnChoice']
export type Preview = Schemas['Preview']
export type Check = Schemas['Check']
export type CheckedQuestion = Schemas['CheckedQuestion']
export type Remedy = Schemas['Remedy']
export type Analysis = Schemas['Analysis']
export type Spec = Schemas['Spec']
export type Topic = Schemas['Topic']
export type ShareSet = Schemas['ShareSet']
export type ShareSetBody = Schemas['ShareSetBody']
export type SharesFit = Schemas['SharesFit']
export type StatTable = Schemas['StatTable']
export type OfficeTable = Schemas['OfficeTables']['tables'][number]
export type Register = Schemas['Register']
export type Claim = Schemas['Claim']
export type Group = Schemas['Group']
export type SpecProblem = Schemas['SpecProblem']
export type Method = Schemas['Method']
export type Input = Schemas['Input']
export type Document = Schemas['Document']
export type Block = Schemas['Block']
export type Fact = Block['facts'][number]
export type Table = Schemas['Table']
export type Cell = Schemas['Cell']
export type FigureRole = Schemas['FigureRole']
export type Choices = Schemas['Choices']
export type ChoiceEntry = Choices['entries'][number]
export type NextAsk = Schemas['NextAsk']
export type Who = Schemas['Who']
export type Outlined = Schemas['Outlined']
export type Chart = Schemas['Chart']
export type Computed = Schemas['ComputedAnalysis']
export type TypedCounts = Schemas['TypedCounts']
export type Change = Record<string, unknown>
export type Found = Schemas['Found']
export type Fit = Schemas['Fit']
export type Refresh = Schemas['Refresh']
export type Codebook = Schemas['Codebook']
export type CodebookQuestion = Schemas['CodebookQuestion']
export type CodebookFit = Schemas['CodebookFit']
export type AnswerList = Schemas['AnswerList']
export type ListEdit = Schemas['ListEdit']
export type Subgroup = Schemas['Subgroup']
export type SubgroupEdit = Schemas['SubgroupEdit']
export type Condition = Schemas['Condition']
export type Derivation = Schemas['Derivation']
export type DerivedEdit = Schemas['DerivedEdit']
export type BulkEdit = Schemas['BulkEdit']
export type Edit = Schemas['Edit']
export type Responses = Schemas['Responses']
export type ReportPage = Schemas['ReportPage']
export type ReportDefinition = Schemas['Report']
export type ReportPiece = Schemas['ReportPiece']
export type ReportBlock = Schemas['ReportBlock']
export type ReportRun = Schemas['ReportRun']
export type ReportOffer = ReportPage['offers'][number]
export type ReportForm = Schemas['ReportForm']

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

  /** What was asked for is not there, however often one asks. */
  get isGone(): boolean {
    return this.code === 'http.not_found'
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
  const url = '/api/v1' + path
  if (method !== 'GET') forget()
  let answer: Came
  try {
    answer = await (early(url) ?? ask(url, { method, headers, body, signal: options.signal ?? null }))
  } catch (cause) {
    if (cause instanceof DOMException && cause.name === 'AbortError') throw cause
    throw new ApiError(0, 'unreachable', '')
  }
  if (answer.ok && method !== 'GET' && path.startsWith('/studies')) edited()
  if (!answer.ok) {
    const problem = answer.data as Partial<Schemas['Problem']> | null
    throw new ApiError(answer.status, problem?.code ?? 'unknown', problem?.title ?? answer.title, problem?.pointer)
  }
  return answer.data as T
}

/** Whom the tallies are about, a subgroup or everyone, and in which order their answers stand. */
export interface Seen {
  of: number | null
  order: 'asked' | 'size' | 'label'
}
/** Which questions of a page are wanted: those with these ids, or many from a place on. */
export type Window = { ids: number[] } | { from: number; many: number } | null
function asSeen(seen: Seen | null, window: Window = null, more: Record<string, string> = {}): string {
  const query = new URLSearchParams(more)
  if (seen && seen.of !== null) query.set('of', String(seen.of))
  if (seen && seen.order !== 'asked') query.set('order', seen.order)
  if (window && 'ids' in window) query.set('ids', window.ids.join(','))
  if (window && 'many' in window) {
    query.set('from', String(window.from))
    query.set('many', String(window.many))
  }
  const text = query.toString()
  return text ? `?${text}` : ''
}
/** The dimension that is taken from a table, and what the others are fixed at. */
function taken(dim: string, fix: Record<string, string>): string {
  const query = new URLSearchParams(dim ? { dim } : {})
  for (const [id, code] of Object.entries(fix)) query.append('fix', `${id}:${code}`)
  const text = query.toString()
  return text ? `?${text}` : ''
}
const question = (study: number, id: number) => `/studies/${study}/questions/${id}`
const analysis = (study: number, id: number) => `/studies/${study}/analyses/${id}`

export const api = {
  listStudies: (signal?: AbortSignal) => send<Schemas['StudyList']>('GET', '/studies', signal ? { signal } : {}),
  openStudy: (arrivalId: string, signal: AbortSignal) => send<Study>('POST', '/studies/open', { body: { arrivalId }, signal }),
  recipeFile: (study: number) => `/api/v1/studies/${study}/recipe`,
  studyFile: (study: number) => `/api/v1/studies/${study}/file`,
  createStudy: (body: NewStudy, signal: AbortSignal) => send<Study>('POST', '/studies', { body, signal }),
  editStudy: (id: number, version: number, body: StudyEdit) => send<Study>('PATCH', `/studies/${id}`, { body, version }),
  deleteStudy: (id: number) => send<void>('DELETE', `/studies/${id}`),
  restoreStudy: (id: number) => send<Study>('POST', `/studies/${id}/restore`),
  limits: () => send<Schemas['Limits']>('GET', '/limits'),
  arrive: (name: string, body: Blob, signal: AbortSignal) => send<Arrival>('POST', `/arrivals?name=${encodeURIComponent(name)}`, { body, signal }),
  addFile: (id: string, name: string, body: Blob) => send<Arrival>('POST', `/arrivals/${id}/files?name=${encodeURIComponent(name)}`, { body }),
  look: (id: string, settings: Settings, columns: ColumnChoice[], signal: AbortSignal) => send<Arrival>('POST', `/arrivals/${id}/look`, { body: { settings, columns }, signal }),
  /** Hears how far work on an arrived file has come; call the result to stop listening. */
  watchArrival(id: string, hear: (p: { stage: string; rows: number; percent: number; secondsLeft: number }) => void): () => void {
    const events = new EventSource(`/api/v1/arrivals/${id}/progress`)
    events.onmessage = (e: MessageEvent<string>) => hear(JSON.parse(e.data))
    events.addEventListener('gone', () => events.close())
    events.onerror = () => events.close()
    return () => events.close()
  },
  /** Tells how far a file has come that is being written for this token. */
  watchWriting(token: string, hear: (percent: number) => void): () => void {
    const events = new EventSource(`/api/v1/files/${token}/progress`)
    events.onmessage = (e: MessageEvent<string>) => hear((JSON.parse(e.data) as { percent: number }).percent)
    events.addEventListener('gone', () => events.close())
    events.onerror = () => events.close()
    return () => events.close()
  },
  discardArrival: (id: string) => send<void>('DELETE', `/arrivals/${id}`),
  shareSets: (signal?: AbortSignal) => send<Schemas['ShareSets']>('GET', '/shares', signal ? { signal } : {}),
  shareVersions: (id: number) => send<Schemas['ShareSets']>('GET', `/shares/${id}`),
  addShares: (set: ShareSetBody) => send<ShareSet>('POST', '/shares', { body: set }),
  editShares: (id: number, version: number, set: ShareSetBody) => send<ShareSet>('PUT', `/shares/${id}`, { body: set, version }),
  deleteShares: (id: number) => send<void>('DELETE', `/shares/${id}`),
  restoreShares: (id: number) => send<void>('POST', `/shares/${id}/restore`),
  fitShares: (id: number, study: number, q: number, from?: number[][]) => send<SharesFit>('POST', `/shares/${id}/fit`, { body: { study, question: q, ...(from ? { from } : {}) } }),
  toShelf: (study: number, q: number, seen: Seen) => send<ShareSet>('POST', `${question(study, q)}/shelf${asSeen({ ...seen, order: 'asked' })}`),
  readTable: (file: Blob, dim = '', fix: Record<string, string> = {}) => send<StatTable>('POST', `/shares/tables${taken(dim, fix)}`, { body: file }),
  officeTables: () => send<{ tables: OfficeTable[] }>('GET', '/office/tables'),
  officeTable: (id: string, dim = '', fix: Record<string, string> = {}) => send<StatTable>('GET', `/office/tables/${encodeURIComponent(id)}${taken(dim, fix)}`),
  answerNote: (study: number, id: number, rule: string, seen: boolean, reason: string, view: Seen) =>
    send<Question>('PUT', `${analysis(study, id)}/notes${asSeen(view)}`, { body: { id: rule, seen, ...(reason ? { reason } : {}) } }),
  help: (signal: AbortSignal) => send<{ topics: Topic[] }>('GET', '/help', { signal }),
  register: (id: number, signal: AbortSignal) => send<Register>('GET', `/studies/${id}/claims`, { signal }),
  adjust: (id: number, adjustment: Register['adjustment']) => send<void>('PUT', `/studies/${id}/claims/adjustment`, { body: { adjustment } }),
  topline: (id: number, seen: Seen | null, window: Window, signal?: AbortSignal) => send<Topline>('GET', `/studies/${id}/topline${asSeen(seen, window)}`, signal ? { signal } : {}),
  questions: (id: number, seen: Seen, window: Window) => send<{ questions: Question[] }>('GET', `/studies/${id}/questions${asSeen(seen, window)}`),
  question: (study: number, id: number, seen: Seen | null = null) => send<Question>('GET', question(study, id) + asSeen(seen)),
  /** An edit can change other questions, too, and what can be taken back: the whole page comes back. */
  editOnPage: (study: number, id: number, version: number, body: QuestionEdit, seen: Seen, window: Window) =>
    send<Topline>('PATCH', question(study, id) + asSeen(seen, window, { whole: 'true' }), { body, version }),
  editQuestion: (study: number, id: number, version: number, body: QuestionEdit, seen: Seen | null = null) => send<Question>('PATCH', question(study, id) + asSeen(seen), { body, version }),
  deleteQuestion: (study: number, id: number, version: number) => send<void>('DELETE', question(study, id), { version }),
  addDerived: (study: number, body: DerivedEdit) => send<Question>('POST', `/studies/${study}/questions`, { body }),
  editDerived: (study: number, id: number, version: number, body: DerivedEdit) => send<Question>('PUT', question(study, id) + '/derivation', { body, version }),
  check: (study: number, signal?: AbortSignal) => send<Check>('GET', `/studies/${study}/check`, signal ? { signal } : {}),
  setCounts: (study: number, questionId: number | null) => send<Study>('PUT', `/studies/${study}/counts`, { body: { questionId } }),
  refresh: (study: number, body: Refresh, signal: AbortSignal) => send<Fit>('POST', `/studies/${study}/refresh`, { body, signal }),
  codebook: (study: number, signal?: AbortSignal) => send<Codebook>('GET', `/studies/${study}/codebook`, signal ? { signal } : {}),
  editMany: (study: number, body: BulkEdit) => send<Codebook>('PATCH', `/studies/${study}/codebook`, { body }),
  codebookFile: (study: number, format: 'csv' | 'ddi' | 'package') => `/api/v1/studies/${study}/codebook/file?format=${format}`,
  importCodebook: (study: number, arrivalId: string, dry: boolean) => send<CodebookFit>('POST', `/studies/${study}/codebook/file`, { body: { arrivalId, dry } }),
  addList: (study: number, body: ListEdit) => send<Codebook>('POST', `/studies/${study}/lists`, { body }),
  editList: (study: number, id: number, version: number, body: ListEdit) => send<Codebook>('PUT', `/studies/${study}/lists/${id}`, { body, version }),
  deleteList: (study: number, id: number) => send<Codebook>('DELETE', `/studies/${study}/lists/${id}`),
  addSubgroup: (study: number, body: SubgroupEdit) => send<Codebook>('POST', `/studies/${study}/subgroups`, { body }),
  editSubgroup: (study: number, id: number, version: number, body: SubgroupEdit) => send<Codebook>('PUT', `/studies/${study}/subgroups/${id}`, { body, version }),
  deleteSubgroup: (study: number, id: number) => send<Codebook>('DELETE', `/studies/${study}/subgroups/${id}`),
  countCondition: (study: number, condition: Condition, signal: AbortSignal) => send<Schemas['ConditionCount']>('POST', `/studies/${study}/subgroups/count`, { body: { condition }, signal }),
  history: (study: number, signal?: AbortSignal) => send<Schemas['History']>('GET', `/studies/${study}/history`, signal ? { signal } : {}),
  undo: (study: number, editId: number) => send<Edit>('POST', `/studies/${study}/undo`, { body: { editId } }),
  redo: (study: number, editId: number) => send<Edit>('POST', `/studies/${study}/redo`, { body: { editId } }),
  keptFile: (study: number, file: number) => `/api/v1/studies/${study}/files/${file}`,
  repair: (study: number, id: number) => send<Schemas['Repaired']>('POST', question(study, id) + '/repair'),
  responses: (study: number, query: URLSearchParams, signal: AbortSignal) => send<Responses>('GET', `/studies/${study}/responses?${query.toString()}`, { signal }),
  correctCell: (study: number, id: number, version: number, row: number, text: string, isNew: boolean) => send<Question>('PATCH', `${question(study, id)}/responses/${row}`, { body: { text, isNew }, version }),
  checkShares: (study: number, id: number, body: SharesEntry, signal: AbortSignal) => send<SharesCheck>('POST', question(study, id) + '/shares', { body, signal }),
  methods: (signal?: AbortSignal) => send<Schemas['MethodList']>('GET', '/methods', signal ? { signal } : {}),
  compute: (body: Schemas['TypedAnalysis'], signal: AbortSignal) => send<Computed>('POST', '/analyses', { body, signal }),
  keepTyped: (name: string, typed: { spec: Spec; counts: TypedCounts }) => send<Study>('POST', '/analyses/keep', { body: { name, ...typed } }),
  checkSpec: (study: number, spec: Spec, signal: AbortSignal) => send<Schemas['SpecCheck']>('POST', `/studies/${study}/analyses/check`, { body: { spec }, signal }),
  stateAnalysis: (study: number, spec: Spec, run: boolean, seen: Seen | null = null) =>
    send<Schemas['StatedAnalysis']>('POST', `/studies/${study}/analyses` + asSeen(seen), { body: { spec, run } }),
  editAnalysis: (study: number, id: number, version: number, spec: Spec, run: boolean, seen: Seen | null = null) =>
    send<Question>('PUT', analysis(study, id) + asSeen(seen), { body: { spec, run }, version }),
  changeAnalysis: (study: number, id: number, version: number, change: Change, seen: Seen | null = null, look = false) =>
    send<Question>('PATCH', analysis(study, id) + asSeen(seen), { body: { change, look }, version }),
  analysisTable: (study: number, id: number, place: number) => `/api/v1${analysis(study, id)}/tables/${place}?`,
  questionTable: (study: number, id: number, base: string, seen: Seen) => `/api/v1${question(study, id)}/table${asSeen(seen, null, { base })}&`,
  tableFile: (address: string, form: 'html' | 'tsv' | 'csv' | 'xlsx') => `${address}form=${form}`,
  /** One column of a table, as it is shown. */
  tableColumn: async (address: string, at: number) => (await fetch(`${address}form=tsv&column=${at}`)).text(),
  /** A table for the clipboard. */
  async table(address: string, form: 'html' | 'tsv'): Promise<string> {
    const response = await fetch(api.tableFile(address, form))
    if (!response.ok) throw new ApiError(response.status, 'unknown', response.statusText)
    return response.text()
  },
  /** Finds or makes the subgroup of those who gave these answers. */
  subgroupOf: (study: number, who: Who[]) => send<{ id: number }>('POST', `/studies/${study}/subgroups/answers`, { body: { who } }),
  /** Takes a tally, as it is seen, or an analysis into the report, or out of it. */
  select: (study: number, what: 'questions' | 'analyses', id: number, on: boolean, seen: Seen | null = null) =>
    send<void>(on ? 'PUT' : 'DELETE', `/studies/${study}/report/${what}/${id}` + asSeen(seen)),
  report: (study: number, signal?: AbortSignal) => send<ReportPage>('GET', `/studies/${study}/report`, signal ? { signal } : {}),
  editReport: (study: number, version: number, body: ReportDefinition) => send<ReportPage>('PUT', `/studies/${study}/report`, { body, version }),
  reportFile: (study: number, form: ReportForm) => `/api/v1/studies/${study}/report/file?form=${form}`,
  chart: (study: number, id: number, place: number) => `/api/v1${analysis(study, id)}/charts/${place}`,
  /** The same as data, with what stands under a picture that leaves. */
  chartData: async (address: string) => (await (await fetch(`${address}?form=json`)).json()) as Chart,
  runAnalysis: (study: number, id: number, seen: Seen | null = null) => send<Question>('POST', analysis(study, id) + '/run' + asSeen(seen)),
  withdrawAnalysis: (study: number, id: number) => send<void>('DELETE', analysis(study, id)),
  restoreAnalysis: (study: number, id: number, seen: Seen | null = null) => send<Question>('POST', analysis(study, id) + '/restore' + asSeen(seen)),
}

/** The only place that talks to the server. Its addresses, what they take and what they answer come
 * from the server's own description. */
import createClient from 'openapi-fetch'
import { ref } from 'vue'

import { askAgain, edited } from '@/app/queries'

import { again } from './again'
import { early, forget } from './early'
import { begins, ends, heard } from './revisions'

import type { components, paths } from './schema_gen'

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
export type TextPiece = Schemas['TextPiece']
export type HowTo = Schemas['HowTo']
export type ShareSet = Schemas['ShareSet']
export type ShareSetBody = Schemas['ShareSetBody']
export type SharesFit = Schemas['SharesFit']
export type StatTable = Schemas['StatTable']
export type OfficeTable = Schemas['OfficeTables']['tables'][number]
export type Register = Schemas['Register']
export type Design = Schemas['Design']
export type DesignBody = Schemas['DesignBody']
export type Claim = Schemas['Claim']
export type Account = Schemas['Account']
export type Session = Schemas['Session']
export type TokenScope = Schemas['TokenScope']
export type LinkKind = Schemas['LinkKind']
export interface Links { links: Schemas['Link'][]; shows: LinkKind[] }
export type Remarks = Schemas['Remarks']
type NewRemark = paths['/studies/{study}/remarks']['post']['requestBody']['content']['application/json']
export type AccountGroup = Schemas['Groups']['groups'][number]
/** What is shared with people. */
export interface Shared { kind: 'study' | 'set'; id: number; name: string }
export type LiveEvent = Schemas['Live']
export type Entry = Schemas['Trail']['entries'][number]
type TrailQuery = NonNullable<paths['/studies/{study}/trail']['get']['parameters']['query']>
export type Members = Schemas['Members']
export type Role = Schemas['Role']
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
export type Quick = Schemas['Quick']
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
export type Waves = Schemas['Waves']
export type WaveAsk = { question?: number; from?: string; to?: string }
export type DisclosureRule = Schemas['DisclosureRule']
export type Anonymity = Schemas['Anonymity']
type MicrodataAsk = { questions: number[]; keys: number[]; least: number; bands: number }
export type BooksPage = Schemas['BooksPage']
export type TableBook = Schemas['Book']
export type Banner = Schemas['Banner']
export type BannerBreak = Schemas['Break']
export type BookQuestion = Schemas['BookQuestion']
export type BookBattery = Schemas['Battery']
export type Net = Schemas['Net']
export type BookTables = Schemas['BookTables']
export type BookTable = BookTables['tables'][number]

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

  /** What the page shows is no longer, or may not be, what is kept: it has to be loaded again. */
  get isStale(): boolean {
    return this.status === 412 || ['http.kept', 'http.unsure'].includes(this.code)
  }

  /** The server, a proxy before it or its database is away for a moment: who asks again is answered. */
  get isPassing(): boolean {
    return [0, 502, 504].includes(this.status) || this.code === 'http.database_gone'
  }

  /** What was asked for is not there, however often one asks. */
  get isGone(): boolean {
    return this.code === 'http.not_found'
  }
}

const root = '/api/v1'

/** The server, or its database, did not answer when it was asked last. While it does not, it is asked again and again. */
export const isAway = ref(false)
function away() {
  if (isAway.value) return
  isAway.value = true
  const later = () => void setTimeout(ask, askAgain)
  const ask = () => void fetch(`${root}/studies`).then((answer) => (answer.status < 500 ? (isAway.value = false) : later()), later)
  later()
}

async function reach(request: Request): Promise<Response> {
  const asks = request.method === 'GET'
  if (!asks) forget()
  if (!asks) begins()
  try {
    const answer = await ((asks ? early(request.url) : undefined) ?? fetch(request))
    if (answer.status < 500) isAway.value = false
    heard(answer, request.url)
    if (answer.ok && !asks && new URL(request.url).pathname.startsWith(`${root}/studies`)) edited()
    return answer
  } catch (cause) {
    if (cause instanceof DOMException && cause.name === 'AbortError') throw cause
    away()
    throw new ApiError(0, 'unreachable', '')
  } finally {
    if (!asks) ends()
  }
}

/** Nobody is signed in, where people sign in: the application asks who it is, and what was typed stays. */
export const isSignedOut = ref(false)

const { GET, POST, PUT, PATCH, DELETE } = createClient<paths>({ baseUrl: root, fetch: reach })

/** Gives what was answered, or throws what was refused. */
async function got<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await answer
  if (!response.ok) {
    const problem = (typeof error === 'object' ? error : null) as Partial<Schemas['Problem']> | null
    if (problem?.code === 'http.signed_out') isSignedOut.value = true
    const refused = new ApiError(response.status, problem?.code ?? 'unknown', problem?.title ?? response.statusText, problem?.pointer)
    if (refused.isPassing) away()
    throw refused
  }
  return data as T
}

/** Whom the tallies are about, a subgroup or everyone, and in which order their answers stand. */
export interface Seen {
  of: number | null
  order: 'asked' | 'size' | 'label'
}
/** Which questions of a page are wanted: those with these ids, or many from a place on. */
export type Window = { ids: number[] } | { from: number; many: number } | null
const seenAs = (seen: Seen | null) => ({
  ...(seen && seen.of !== null ? { of: seen.of } : {}),
  ...(seen && seen.order !== 'asked' ? { order: seen.order } : {}),
})
const within = (window: Window) => (window && 'ids' in window ? { ids: window.ids.join(',') } : (window ?? {}))
const at = (version: number) => ({ 'If-Match': `"${version}"` })
/** A file as it is. */
const file = (body: Blob) => ({ body: body as never, bodySerializer: (b: unknown) => b as Blob, headers: { 'Content-Type': 'application/octet-stream' } })
/** The dimension that is taken from a table, and what the others are fixed at. */
const microdataQuery = (ask: MicrodataAsk) => ({ ...ask, questions: ask.questions.join(','), keys: ask.keys.join(',') })
const taken = (dim: string, fix: Record<string, string>) => ({ ...(dim ? { dim } : {}), fix: Object.entries(fix).map(([id, code]) => `${id}:${code}`) })

/** An address of what a browser takes itself, as a file or a picture. */
function address(path: string, query: Record<string, string | number> = {}): string {
  const text = new URLSearchParams(Object.entries(query).map(([k, v]) => [k, String(v)])).toString()
  return root + path + (text ? `?${text}` : '')
}

/** Hears of events until there are no more; call the result to stop listening. */
function listen<T>(from: string, hear: (p: T) => void): () => void {
  const events = new EventSource(from)
  events.onmessage = (e: MessageEvent<string>) => hear(JSON.parse(e.data) as T)
  events.addEventListener('gone', () => events.close())
  return () => events.close()
}

type Signal = AbortSignal | undefined
const until = (signal: Signal) => (signal ? { signal } : {})

export const api = {
  listStudies: (signal?: Signal) => got(GET('/studies', until(signal))),
  openStudy: (arrivalId: string, signal: AbortSignal) => got(POST('/studies/open', { body: { arrivalId }, signal })),
  recipeFile: (study: number) => address(`/studies/${study}/recipe`),
  studyFile: (study: number) => address(`/studies/${study}/file`),
  createStudy: (body: NewStudy, signal: AbortSignal) => again(() => got(POST('/studies', { body, signal })), signal),
  editStudy: (study: number, version: number, body: StudyEdit) => got(PATCH('/studies/{study}', { params: { path: { study }, header: at(version) }, body })),
  deleteStudy: (study: number) => got(DELETE('/studies/{study}', { params: { path: { study } } })),
  restoreStudy: (study: number) => got(POST('/studies/{study}/restore', { params: { path: { study } } })),
  limits: () => got(GET('/limits')),
  session: () => got(GET('/session')),
  signIn: (email: string, password: string) => got(POST('/session', { body: { email, password } })),
  signOut: () => got(DELETE('/session')),
  sessions: () => got(GET('/sessions')),
  endSession: (session: string) => got(DELETE('/sessions/{session}', { params: { path: { session } } })),
  accounts: () => got(GET('/accounts')),
  closeAccount: (email: string, closed: boolean) => got(PUT('/accounts', { body: { email, closed } })),
  changePassword: (present: string, password: string) => got(PUT('/account/password', { body: { present, password } })),
  invite: (email: string, name: string) => got(POST('/invitations', { body: { email, name } })),
  invitation: (token: string) => got(GET('/invitations/{token}', { params: { path: { token } } })),
  accept: (token: string, password: string) => got(POST('/invitations/{token}', { params: { path: { token } }, body: { password } })),
  members: (of: Shared) => got(of.kind === 'set' ? GET('/shares/{set}/members', { params: { path: { set: of.id } } }) : GET('/studies/{study}/members', { params: { path: { study: of.id } } })),
  /** With somebody by their email, with a group, or with everybody where neither is given. */
  share: (of: Shared, body: { email?: string; group?: number; role: Role | '' }) =>
    got(of.kind === 'set' ? PUT('/shares/{set}/members', { params: { path: { set: of.id } }, body }) : PUT('/studies/{study}/members', { params: { path: { study: of.id } }, body })),
  groups: () => got(GET('/groups')),
  /** A new one where it has no id. */
  putGroup: (group: number, name: string, emails: string[]) => got(group ? PUT('/groups/{group}', { params: { path: { group } }, body: { name, emails } }) : POST('/groups', { body: { name, emails } })),
  deleteGroup: (group: number) => got(DELETE('/groups/{group}', { params: { path: { group } } })),
  arrive: (name: string, body: Blob, signal?: Signal) => got(POST('/arrivals', { params: { query: { name } }, ...file(body), ...until(signal) })),
  addFile: (arrival: string, name: string, body: Blob) => got(POST('/arrivals/{arrival}/files', { params: { path: { arrival }, query: { name } }, ...file(body) })),
  look: (arrival: string, settings: Settings, columns: ColumnChoice[], signal: AbortSignal) =>
    got(POST('/arrivals/{arrival}/look', { params: { path: { arrival } }, body: { settings, columns }, signal })),
  /** Hears how far work on an arrived file has come. */
  watchArrival: (id: string, hear: (p: { stage: string; rows: number; percent: number; secondsLeft: number }) => void) => listen(address(`/arrivals/${id}/progress`), hear),
  /** Tells how far a file has come that is being written for this token. */
  watchWriting: (token: string, hear: (percent: number) => void) => listen<{ percent: number }>(address(`/files/${token}/progress`), (p) => hear(p.percent)),
  discardArrival: (arrival: string) => got(DELETE('/arrivals/{arrival}', { params: { path: { arrival } } })),
  shareSets: (signal?: Signal) => got(GET('/shares', until(signal))),
  shareVersions: (set: number) => got(GET('/shares/{set}', { params: { path: { set } } })),
  addShares: (body: ShareSetBody) => got(POST('/shares', { body })),
  editShares: (set: number, version: number, body: ShareSetBody) => got(PUT('/shares/{set}', { params: { path: { set }, header: at(version) }, body })),
  deleteShares: (set: number) => got(DELETE('/shares/{set}', { params: { path: { set } } })),
  restoreShares: (set: number) => got(POST('/shares/{set}/restore', { params: { path: { set } } })),
  fitShares: (set: number, study: number, question: number, from?: number[][]) =>
    got(POST('/shares/{set}/fit', { params: { path: { set } }, body: { study, question, ...(from ? { from } : {}) } })),
  toShelf: (study: number, question: number, seen: Seen) =>
    got(POST('/studies/{study}/questions/{question}/shelf', { params: { path: { study, question }, query: seen.of === null ? {} : { of: seen.of } } })),
  readTable: (table: Blob, dim = '', fix: Record<string, string> = {}) => got(POST('/shares/tables', { params: { query: taken(dim, fix) }, ...file(table) })),
  officeTables: () => got(GET('/office/tables')),
  officeTable: (table: string, dim = '', fix: Record<string, string> = {}) => got(GET('/office/tables/{table}', { params: { path: { table }, query: taken(dim, fix) } })),
  answerNote: (study: number, analysis: number, rule: string, seen: boolean, reason: string, view: Seen) =>
    got(PUT('/studies/{study}/analyses/{analysis}/notes', { params: { path: { study, analysis }, query: seenAs(view) }, body: { id: rule, seen, ...(reason ? { reason } : {}) } })),
  guide: (signal: AbortSignal) => got(GET('/guide', { signal })),
  help: (signal: AbortSignal) => got(GET('/help', { signal })),
  design: (study: number, signal?: Signal) => got(GET('/studies/{study}/design', { params: { path: { study } }, ...until(signal) })),
  setDesign: (study: number, body: DesignBody) => got(PUT('/studies/{study}/design', { params: { path: { study } }, body })),
  register: (study: number, signal: AbortSignal) => got(GET('/studies/{study}/claims', { params: { path: { study } }, signal })),
  adjust: (study: number, adjustment: Register['adjustment']) => got(PUT('/studies/{study}/claims/adjustment', { params: { path: { study } }, body: { adjustment } })),
  topline: (study: number, seen: Seen | null, window: Window, signal?: Signal) =>
    got(GET('/studies/{study}/topline', { params: { path: { study }, query: { ...seenAs(seen), ...within(window) } }, ...until(signal) })),
  questions: (study: number, seen: Seen, window: Window) =>
    got(GET('/studies/{study}/questions', { params: { path: { study }, query: { ...seenAs(seen), ...within(window) } } })),
  question: (study: number, question: number, seen: Seen | null = null) =>
    got(GET('/studies/{study}/questions/{question}', { params: { path: { study, question }, query: seenAs(seen) } })),
  /** An edit can change other questions, too, and what can be taken back: the whole page comes back. */
  editOnPage: (study: number, question: number, version: number, body: QuestionEdit, seen: Seen, window: Window) =>
    got(PATCH('/studies/{study}/questions/{question}', {
      params: { path: { study, question }, header: at(version), query: { ...seenAs(seen), ...within(window), whole: true } },
      body,
    })) as Promise<Topline>,
  editQuestion: (study: number, question: number, version: number, body: QuestionEdit, seen: Seen | null = null) =>
    got(PATCH('/studies/{study}/questions/{question}', { params: { path: { study, question }, header: at(version), query: seenAs(seen) }, body })) as Promise<Question>,
  deleteQuestion: (study: number, question: number, version: number) => got(DELETE('/studies/{study}/questions/{question}', { params: { path: { study, question }, header: at(version) } })),
  addDerived: (study: number, body: DerivedEdit) => got(POST('/studies/{study}/questions', { params: { path: { study } }, body })),
  editDerived: (study: number, question: number, version: number, body: DerivedEdit) =>
    got(PUT('/studies/{study}/questions/{question}/derivation', { params: { path: { study, question }, header: at(version) }, body })),
  check: (study: number, signal?: Signal) => got(GET('/studies/{study}/check', { params: { path: { study } }, ...until(signal) })),
  setCounts: (study: number, questionId: number | null) => got(PUT('/studies/{study}/counts', { params: { path: { study } }, body: { questionId } })),
  refresh: (study: number, body: Refresh, signal?: Signal) => got(POST('/studies/{study}/refresh', { params: { path: { study } }, body, ...until(signal) })),
  codebook: (study: number, signal?: Signal) => got(GET('/studies/{study}/codebook', { params: { path: { study } }, ...until(signal) })),
  editMany: (study: number, body: BulkEdit) => got(PATCH('/studies/{study}/codebook', { params: { path: { study } }, body })),
  codebookFile: (study: number, format: 'csv' | 'ddi' | 'package') => address(`/studies/${study}/codebook/file`, { format }),
  importCodebook: (study: number, arrivalId: string, dry: boolean) => got(POST('/studies/{study}/codebook/file', { params: { path: { study } }, body: { arrivalId, dry } })),
  addList: (study: number, body: ListEdit) => got(POST('/studies/{study}/lists', { params: { path: { study } }, body })),
  editList: (study: number, part: number, version: number, body: ListEdit) => got(PUT('/studies/{study}/lists/{part}', { params: { path: { study, part }, header: at(version) }, body })),
  deleteList: (study: number, part: number) => got(DELETE('/studies/{study}/lists/{part}', { params: { path: { study, part } } })),
  addSubgroup: (study: number, body: SubgroupEdit) => got(POST('/studies/{study}/subgroups', { params: { path: { study } }, body })),
  editSubgroup: (study: number, part: number, version: number, body: SubgroupEdit) =>
    got(PUT('/studies/{study}/subgroups/{part}', { params: { path: { study, part }, header: at(version) }, body })),
  deleteSubgroup: (study: number, part: number) => got(DELETE('/studies/{study}/subgroups/{part}', { params: { path: { study, part } } })),
  countCondition: (study: number, condition: Condition, signal: AbortSignal) => got(POST('/studies/{study}/subgroups/count', { params: { path: { study } }, body: { condition }, signal })),
  history: (study: number, signal?: Signal) => got(GET('/studies/{study}/history', { params: { path: { study } }, ...until(signal) })),
  tokens: () => got(GET('/tokens')),
  addToken: (name: string, scope: TokenScope, days: number) => got(POST('/tokens', { body: { name, scope, days } })),
  endToken: (token: string) => got(DELETE('/tokens/{token}', { params: { path: { token } } })),
  links: (study: number) => got(GET('/studies/{study}/links', { params: { path: { study } } })),
  addLink: (study: number, shows: LinkKind, days: number) => got(POST('/studies/{study}/links', { params: { path: { study } }, body: { shows, days } })),
  endLink: (study: number, link: string) => got(DELETE('/studies/{study}/links/{link}', { params: { path: { study, link } } })),
  remarks: (study: number, signal?: Signal) => got(GET('/studies/{study}/remarks', { params: { path: { study } }, ...until(signal) })),
  writeRemark: (study: number, body: NewRemark) => got(POST('/studies/{study}/remarks', { params: { path: { study } }, body })),
  resolveRemark: (study: number, remark: number, resolved: boolean) => got(PUT('/studies/{study}/remarks/{remark}', { params: { path: { study, remark } }, body: { resolved } })),
  deleteRemark: (study: number, remark: number) => got(DELETE('/studies/{study}/remarks/{remark}', { params: { path: { study, remark } } })),
  passkeys: () => got(GET('/passkeys')),
  beginPasskey: () => got(POST('/passkeys/begin')),
  finishPasskey: (state: string, name: string, answer: Record<string, unknown>) => got(POST('/passkeys', { body: { state, name, answer } })),
  endPasskey: (passkey: string) => got(DELETE('/passkeys/{passkey}', { params: { path: { passkey } } })),
  beginPasskeySignIn: () => got(POST('/session/passkey/begin')),
  signInByPasskey: (state: string, answer: Record<string, unknown>) => got(POST('/session/passkey', { body: { state, answer } })),
  live: address('/live'),
  /** By which one signs in; the browser comes back to a page. */
  institution: (to: string) => address('/session/institution', { to }),
  here: (study: number, body: { tab: string; place: string; editing: boolean }) => got(PUT('/studies/{study}/here', { params: { path: { study } }, body })),
  /** As the page is left, too. */
  notHere: (study: number, tab: string) => got(DELETE('/studies/{study}/here/{tab}', { params: { path: { study, tab } }, keepalive: true })),
  /** Of a study, or of the accounts where none is given. */
  trail: (study: number | null, query: TrailQuery, signal?: Signal) =>
    got(study === null ? GET('/trail', { params: { query }, ...until(signal) }) : GET('/studies/{study}/trail', { params: { path: { study }, query }, ...until(signal) })) as Promise<Schemas['Trail']>,
  trailFile: (study: number | null, query: TrailQuery) => address(study === null ? '/trail' : `/studies/${study}/trail`, { ...query, form: 'csv' }),
  undo: (study: number, editId: number) => got(POST('/studies/{study}/undo', { params: { path: { study } }, body: { editId } })),
  redo: (study: number, editId: number) => got(POST('/studies/{study}/redo', { params: { path: { study } }, body: { editId } })),
  keptFile: (study: number, file: number) => address(`/studies/${study}/files/${file}`),
  repair: (study: number, question: number) => got(POST('/studies/{study}/questions/{question}/repair', { params: { path: { study, question } } })),
  responses: (study: number, query: NonNullable<paths['/studies/{study}/responses']['get']['parameters']['query']>, signal: AbortSignal) =>
    got(GET('/studies/{study}/responses', { params: { path: { study }, query }, signal })),
  correctCell: (study: number, question: number, version: number, row: number, text: string, isNew: boolean) =>
    got(PATCH('/studies/{study}/questions/{question}/responses/{row}', { params: { path: { study, question, row }, header: at(version) }, body: { text, isNew } })),
  checkShares: (study: number, question: number, body: SharesEntry, signal?: Signal) =>
    got(POST('/studies/{study}/questions/{question}/shares', { params: { path: { study, question } }, body, ...until(signal) })),
  methods: (signal?: Signal) => got(GET('/methods', until(signal))),
  quick: (body: Quick, signal: AbortSignal) => got(POST('/analyses/quick', { body, signal })),
  keepQuick: (body: Quick & { name: string }) => got(POST('/analyses/quick/keep', { body })),
  checkSpec: (study: number, spec: Spec, signal: AbortSignal) => got(POST('/studies/{study}/analyses/check', { params: { path: { study } }, body: { spec }, signal })),
  stateAnalysis: (study: number, spec: Spec, run: boolean, seen: Seen | null = null) =>
    got(POST('/studies/{study}/analyses', { params: { path: { study }, query: seenAs(seen) }, body: { spec, run } })),
  editAnalysis: (study: number, analysis: number, version: number, spec: Spec, run: boolean, seen: Seen | null = null) =>
    got(PUT('/studies/{study}/analyses/{analysis}', { params: { path: { study, analysis }, header: at(version), query: seenAs(seen) }, body: { spec, run } })),
  changeAnalysis: (study: number, analysis: number, version: number, change: Change, seen: Seen | null = null, look = false) =>
    got(PATCH('/studies/{study}/analyses/{analysis}', { params: { path: { study, analysis }, header: at(version), query: seenAs(seen) }, body: { change, look } })),
  analysisTable: (study: number, analysis: number, place: number) => address(`/studies/${study}/analyses/${analysis}/tables/${place}`) + '?',
  questionTable: (study: number, question: number, base: string, seen: Seen) => address(`/studies/${study}/questions/${question}/table`, { base, ...seenAs(seen) }) + '&',
  tableFile: (table: string, form: 'html' | 'tsv' | 'csv' | 'xlsx') => `${table}form=${form}`,
  /** One column of a table, as it is shown. */
  tableColumn: async (table: string, at: number) => (await fetch(`${table}form=tsv&column=${at}`)).text(),
  /** A table for the clipboard. */
  async table(table: string, form: 'html' | 'tsv'): Promise<string> {
    const response = await fetch(api.tableFile(table, form))
    if (!response.ok) throw new ApiError(response.status, 'unknown', response.statusText)
    return response.text()
  },
  /** Finds or makes the subgroup of those who gave these answers. */
  subgroupOf: (study: number, who: Who[]) => got(POST('/studies/{study}/subgroups/answers', { params: { path: { study } }, body: { who } })),
  /** Takes the tally of a question, as it is seen, into the report, or out of it. */
  selectQuestion: (study: number, question: number, on: boolean, seen: Seen) => {
    const params = { path: { study, question }, query: seen.of === null ? {} : { of: seen.of } }
    return got(on ? PUT('/studies/{study}/report/questions/{question}', { params }) : DELETE('/studies/{study}/report/questions/{question}', { params }))
  },
  /** The same with an analysis. */
  selectAnalysis: (study: number, analysis: number, on: boolean) => {
    const params = { path: { study, analysis } }
    return got(on ? PUT('/studies/{study}/report/analyses/{analysis}', { params }) : DELETE('/studies/{study}/report/analyses/{analysis}', { params }))
  },
  report: (study: number, signal?: Signal) => got(GET('/studies/{study}/report', { params: { path: { study } }, ...until(signal) })),
  editReport: (study: number, version: number, body: ReportDefinition) => got(PUT('/studies/{study}/report', { params: { path: { study }, header: at(version) }, body })),
  waves: (study: number, query: WaveAsk) => got(GET('/studies/{study}/waves', { params: { path: { study }, query } })),
  takeToWave: (study: number, question: number, from: string, to: string) =>
    got(POST('/studies/{study}/waves', { params: { path: { study } }, body: { question, from, to } })),
  microdata: (study: number, ask: MicrodataAsk, signal: AbortSignal) =>
    got(GET('/studies/{study}/microdata', { params: { path: { study }, query: microdataQuery(ask) }, signal })),
  microdataFile: (study: number, ask: MicrodataAsk) => address(`/studies/${study}/microdata/file`, microdataQuery(ask)),
  disclosure: (study: number, signal?: Signal) => got(GET('/studies/{study}/disclosure', { params: { path: { study } }, ...until(signal) })),
  editDisclosure: (study: number, version: number, body: DisclosureRule) =>
    got(PUT('/studies/{study}/disclosure', { params: { path: { study }, header: at(version) }, body })),
  books: (study: number, signal?: Signal) => got(GET('/studies/{study}/books', { params: { path: { study } }, ...until(signal) })),
  addBook: (study: number, body: TableBook) => got(POST('/studies/{study}/books', { params: { path: { study } }, body })),
  editBook: (study: number, part: number, version: number, body: TableBook) =>
    got(PUT('/studies/{study}/books/{part}', { params: { path: { study, part }, header: at(version) }, body })),
  deleteBook: (study: number, part: number) => got(DELETE('/studies/{study}/books/{part}', { params: { path: { study, part } } })),
  addBanner: (study: number, name: string, banner: Banner) => got(POST('/studies/{study}/banners', { params: { path: { study } }, body: { name, banner } })),
  editBanner: (study: number, part: number, version: number, name: string, banner: Banner) =>
    got(PUT('/studies/{study}/banners/{part}', { params: { path: { study, part }, header: at(version) }, body: { name, banner } })),
  deleteBanner: (study: number, part: number) => got(DELETE('/studies/{study}/banners/{part}', { params: { path: { study, part } } })),
  editNets: (study: number, question: number, version: number, nets: Net[], ofList: boolean) =>
    got(PUT('/studies/{study}/nets/{question}', { params: { path: { study, question }, header: at(version) }, body: { nets, ofList } })),
  bookTables: (study: number, part: number, from: number, most: number, signal?: Signal) =>
    got(GET('/studies/{study}/books/{part}/tables', { params: { path: { study, part }, query: { from, most } }, ...until(signal) })),
  bookChance: (study: number, part: number, signal?: Signal) => got(GET('/studies/{study}/books/{part}/chance', { params: { path: { study, part } }, ...until(signal) })),
  bookFile: (study: number, part: number, form: ReportForm, sheets: 'each' | 'one' = 'each') => address(`/studies/${study}/books/${part}/file`, { form, sheets }),
  reportFile: (study: number, form: ReportForm) => address(`/studies/${study}/report/file`, { form }),
  chart: (study: number, analysis: number, place: number) => address(`/studies/${study}/analyses/${analysis}/charts/${place}`),
  /** The same as data, with what stands under a picture that leaves. */
  chartData: async (chart: string) => (await (await fetch(`${chart}?form=json`)).json()) as Chart,
  runAnalysis: (study: number, analysis: number, seen: Seen | null = null) =>
    got(POST('/studies/{study}/analyses/{analysis}/run', { params: { path: { study, analysis }, query: seenAs(seen) } })),
  withdrawAnalysis: (study: number, analysis: number) => got(DELETE('/studies/{study}/analyses/{analysis}', { params: { path: { study, analysis } } })),
  restoreAnalysis: (study: number, analysis: number, seen: Seen | null = null) =>
    got(POST('/studies/{study}/analyses/{analysis}/restore', { params: { path: { study, analysis }, query: seenAs(seen) } })),
}

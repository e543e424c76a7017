/** What becomes of the studies while they are looked at: one connection a browser, whose tabs tell each other. */
import { computed, reactive, ref, watch } from 'vue'

import { api, isSignedOut } from '@/api/client'
import { isChanging, isOlder, shownStudies } from '@/api/revisions'

import type { LiveEvent } from '@/api/client'

import { queries } from './queries'
import { useSession } from './session'
import { findOut, isLooking, who } from './who'

/** What somebody else did last, told for a while. */
export const told = ref<{ study: number; by: string; what: string } | null>(null)
const tellFor = 8000
/** Those who look at each study beside us. */
const here = reactive(new Map<number, LiveEvent['here']>())
export const othersIn = (study: number) => here.get(study) ?? []
/** Who changes a question just now, by name. */
export const changing = (study: number, question: number) => othersIn(study).filter((p) => p.editing && p.place === String(question)).map((p) => p.name)

/** What was heard of while changes of our own are under way. */
const later = new Map<number, LiveEvent>()
const settle = 300

/** The shelf tells of every study. */
const shelf = () => void queries.invalidateQueries({ queryKey: ['studies', 0], exact: true })

function hear(e: LiveEvent) {
  if (!e.gone) heardOf.add(e.study)
  here.set(e.study, e.here)
  later.set(e.study, e)
  setTimeout(bringUp, settle)
}

function bringUp() {
  if (isChanging()) return void setTimeout(bringUp, settle)
  if (isComplete && later.size && !isLooking.value) shelf()
  for (const [id, e] of later) {
    if (e.gone || isOlder(id, e.revision)) {
      // What is typed stays where it is; only what was loaded is replaced.
      void queries.invalidateQueries({ predicate: ({ queryKey: [of, study] }) => of === 'studies' && study === id })
      if (e.by && e.what && useSession().studyId === id) tell({ study: id, by: e.by, what: e.what })
    }
  }
  later.clear()
}

let timer = 0
function tell(what: NonNullable<typeof told.value>) {
  told.value = what
  clearTimeout(timer)
  timer = window.setTimeout(() => (told.value = null), tellFor)
}

const tab = [...crypto.getRandomValues(new Uint8Array(8))].map((b) => b.toString(16).padStart(2, '0')).join('')
const channel = new BroadcastChannel('widetally live')
const lasts = new Map<number, LiveEvent>()

/** The tab that has the connection tells the others, also one that comes later. */
function pass(e: LiveEvent) {
  const { study, revision, gone, here: company } = e
  lasts.set(study, { study, revision, ...(gone && { gone }), here: company })
  channel.postMessage(e)
  hear(e)
}
/** After all was told: what a tab shows and was not told of is no longer there, or not for us. */
const heardOf = new Set<number>()
let isComplete = false
function all() {
  isComplete = true
  for (const study of shownStudies()) if (!heardOf.has(study)) hear({ study, revision: 0, gone: true, here: [] })
}
let leads = false
channel.onmessage = ({ data }: MessageEvent<LiveEvent | 'begin' | 'all'>) => {
  if (data === 'all') all()
  else if (data !== 'begin') hear(data)
  else if (leads && lasts.size) {
    for (const e of lasts.values()) channel.postMessage(e)
    channel.postMessage('all')
  }
}

const tryAgain = 3000
/** Listens until the page is left, as whoever is signed in. */
function listen(): Promise<void> {
  leads = true
  let end = () => {}
  const open = () => {
    end()
    lasts.clear()
    if (isSignedOut.value) return // begun anew by who signs in
    const events = new EventSource(api.live)
    let again = 0
    end = () => {
      events.close()
      clearTimeout(again)
    }
    events.onmessage = (e: MessageEvent<string>) => pass(JSON.parse(e.data) as LiveEvent)
    events.addEventListener('all', () => {
      channel.postMessage('all')
      all()
    })
    // The session of this connection has ended; another tab may have begun another one.
    events.addEventListener('signed_out', () => {
      end()
      void findOut().then(open)
    })
    events.onerror = () => {
      events.close()
      again = window.setTimeout(open, tryAgain)
    }
  }
  watch([() => who.value?.id, isSignedOut], open)
  open()
  return new Promise(() => undefined)
}

/** Where we are: at the question that has the focus, which is being changed where that is a field, or on top of the screen. */
function place(): { place: string; editing: boolean } {
  const active = document.activeElement
  const focused = active?.closest<HTMLElement>('[data-place]')
  if (focused) return { place: focused.dataset.place!, editing: active!.matches('input, textarea, select, [contenteditable]') }
  const seen = [...document.querySelectorAll<HTMLElement>('[data-place]')].find((el) => el.getBoundingClientRect().bottom > 120)
  return { place: seen?.dataset.place ?? '', editing: false }
}

const sayEvery = 20_000
const sayAfter = 500
let said = ''
function say(again: boolean) {
  const study = useSession().studyId
  if (!who.value || study === null || document.hidden || isSignedOut.value) return
  const now = { tab, ...place() }
  const text = JSON.stringify([study, now])
  if (text === said && !again) return
  said = text
  void api.here(study, now).catch(() => (said = ''))
}

/** Begins when the page is there; nothing waits for it. */
export function begin() {
  void (navigator.locks ? navigator.locks.request('widetally live', listen) : listen())
  channel.postMessage('begin')
  watch(() => who.value?.id, () => {
    for (const known of [here, later, heardOf]) known.clear()
    told.value = null
    isComplete = false
  })
  const session = useSession()
  let soon = 0
  const moved = () => {
    clearTimeout(soon)
    soon = window.setTimeout(() => say(false), sayAfter)
  }
  for (const event of ['focusin', 'focusout', 'scroll', 'visibilitychange']) document.addEventListener(event, moved, { passive: true, capture: true })
  setInterval(() => say(true), sayEvery)
  watch([() => session.studyId, who], ([study], [before]) => {
    if (typeof before === 'number' && before !== study && who.value) void api.notHere(before, tab).catch(() => undefined)
    moved()
  }, { immediate: true })
  addEventListener('pagehide', () => {
    if (who.value && session.studyId !== null) void api.notHere(session.studyId, tab).catch(() => undefined)
  })
}

/** Those who look at the study that is open, each with the number of the question at which they are. */
export const company = computed(() => {
  const { studyId, findable } = useSession()
  if (studyId === null) return []
  return othersIn(studyId).map((p) => ({ ...p, number: findable.find((q) => q.hash.endsWith('.' + p.place))?.hash.replace(/^#q(\d+).*/, '$1') ?? '' }))
})

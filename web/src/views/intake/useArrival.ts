import { ref, shallowRef } from 'vue'

import { api } from '@/api/client'

import type { Arrival, ColumnChoice, Settings } from '@/api/client'

/** A file from its arrival to its being kept: settings, choices, progress, what went wrong. */
export function useArrival(limit: () => Promise<number>, tooLarge: (name: string, size: number, most: number) => string) {
  const arrival = shallowRef<Arrival | null>(null)
  const choices = shallowRef<Map<string, ColumnChoice>>(new Map())
  const error = shallowRef<Error | null>(null)
  const busy = ref<null | { name: string; stage: string; rows: number; percent: number; secondsLeft: number }>(null)
  let working = new AbortController()

  async function attempt<T>(work: () => Promise<T>): Promise<T | null> {
    error.value = null
    const mine = (working = new AbortController())
    try {
      return await work()
    } catch (cause) {
      if (!mine.signal.aborted) error.value = cause as Error
      return null
    } finally {
      if (working === mine) busy.value = null
    }
  }

  /** Runs something long on the server while listening how far it has come. */
  async function watched<T>(id: string, name: string, stage: string, work: (signal: AbortSignal) => Promise<T>): Promise<T> {
    busy.value = { name, stage, rows: 0, percent: 0, secondsLeft: 0 }
    const stop = api.watchArrival(id, (p) => {
      if (busy.value && p.stage !== 'idle') busy.value = { name, ...p }
    })
    try {
      return await work(working.signal)
    } finally {
      stop()
    }
  }

  const list = () => [...choices.value.values()]

  async function read(id: string, name: string, settings: Settings) {
    arrival.value = await watched(id, name, 'reading', (signal) => api.look(id, settings, list(), signal))
  }

  const take = (files: File[], change?: Partial<Settings>) =>
    attempt(async () => {
      const most = await limit()
      const descriptor = files.find((f) => f.name.endsWith('.json'))
      const first = descriptor ?? files[0]
      if (!first) return
      for (const f of files) if (f.size > most) throw new Error(tooLarge(f.name, f.size, most))
      choices.value = new Map()
      busy.value = { name: first.name, stage: 'sending', rows: 0, percent: 0, secondsLeft: 0 }
      let a = await api.arrive(first.name, first, working.signal)
      for (const f of descriptor ? files.filter((x) => x !== descriptor) : []) a = await api.addFile(a.id, f.name, f)
      arrival.value = a
      if (!a.problem) await read(a.id, a.name, { ...a.settings, ...change })
    })

  const addFile = (file: File) =>
    attempt(async () => {
      const a = arrival.value
      if (!a) return
      const again = await api.addFile(a.id, file.name, file)
      arrival.value = again
      if (!again.problem) await read(again.id, again.name, again.settings)
    })

  const set = (settings: Settings) =>
    attempt(async () => {
      if (arrival.value) await read(arrival.value.id, arrival.value.name, settings)
    })

  /** Overrules something about columns, by their names, and looks again. */
  const chooseMany = (changes: Map<string, Partial<ColumnChoice>>) =>
    attempt(async () => {
      const a = arrival.value
      if (!a) return
      const before = choices.value
      const after = new Map(before)
      for (const [name, change] of changes) {
        const was = before.get(name)
        after.set(name, {
          ...was,
          ...change,
          name,
          missing: { ...was?.missing, ...change.missing },
          sameAs: { ...was?.sameAs, ...change.sameAs },
          add: [...(was?.add ?? []), ...(change.add ?? [])],
        })
      }
      choices.value = after
      try {
        arrival.value = await api.look(a.id, a.settings, list(), working.signal)
      } catch (cause) {
        choices.value = before
        throw cause
      }
    })

  const choose = (name: string, change: Partial<ColumnChoice>) => chooseMany(new Map([[name, change]]))

  async function drop() {
    working.abort()
    const left = arrival.value
    arrival.value = null
    error.value = null
    busy.value = null
    if (left) await api.discardArrival(left.id).catch(() => undefined) // it goes by itself after a while
  }

  return { arrival, choices, error, busy, attempt, watched, take, addFile, set, choose, chooseMany, drop, list }
}

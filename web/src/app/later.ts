import { defineAsyncComponent } from 'vue'

import NotFetched from './NotFetched.vue'
import { allWords } from './words'

import type { App, Component } from 'vue'

/** The first view of a study does without the component library and most texts. They come with
 * the first thing that is not part of it. */
let host: App | null = null
export const later = { install: (app: App) => void (host = app) }

let furnishing: Promise<unknown> | null = null
function furnished(): Promise<unknown> {
  const library = () => import('./library').then((m) => host?.use(m.library))
  furnishing ??= Promise.all([library(), allWords()]).catch((error: unknown) => {
    furnishing = null // whoever asks next tries again
    throw error
  })
  return furnishing
}

type Load<T> = () => Promise<{ default: T } | T>

/** Loads a place together with what it stands on. */
export const furnishedWith = <T>(load: Load<T>) => async () => (await Promise.all([load(), furnished()]))[0]

/** A component that is fetched when it is shown first, and needs nothing else. */
export const fetched = <T extends Component>(load: Load<T>) =>
  defineAsyncComponent({ loader: load as () => Promise<T>, errorComponent: NotFetched })

/** A component that is fetched when it is shown first, with what it stands on. */
export const lazily = <T extends Component>(load: Load<T>) => fetched(furnishedWith(load))

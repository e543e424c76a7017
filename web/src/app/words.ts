import { registerMessageCompiler } from '@intlify/core-base'
import { createI18n } from 'vue-i18n'

import first from 'texts:first'

import { formatAs } from './format'
import { pluralsOf } from './saying'

import type { Piece } from './saying'

const language = document.documentElement.lang
const plural = pluralsOf(language)

/** What the library gives a message: its values, and how they become one. */
interface Context {
  named: (name: string) => unknown
  list: (at: number) => unknown
  interpolate: (value: unknown) => unknown
  normalize: (parts: unknown[]) => unknown
}

/** What has a blank comes in its pieces; a plain text says what it says. */
registerMessageCompiler((message) => {
  if (typeof message === 'string') return () => message
  const pieces = (message as unknown as { b: Piece[] }).b
  return ((ctx: Context) => {
    const value = (name: string) => (/^\d+$/.test(name) ? ctx.list(Number(name)) : ctx.named(name))
    return ctx.normalize(pieces.map((p) => {
      if (typeof p === 'string') return p
      const [name, ...forms] = p
      return ctx.interpolate(forms.length ? plural(String(value(name)), forms) : value(name))
    }))
  }) as never
})

/** The labels of the interface; sentences and notes come ready from the server. What is shown
 * before its texts have come is silent until then. */
export const words = createI18n({ legacy: false, locale: language, messages: { [language]: first }, missing: (_locale, key) => silent(key) })
formatAs({ locale: words.global.t('app.formats'), decimal: words.global.t('app.decimal'), group: words.global.t('app.group') })

let come = false
let coming: Promise<void> | null = null
export function allWords(): Promise<void> {
  coming ??= import('texts:later').then(
    ({ default: later }) => {
      come = true
      words.global.mergeLocaleMessage(language, later)
    },
    (error: unknown) => {
      coming = null
      throw error
    },
  )
  return coming
}

function silent(key: string): string {
  if (come) return key
  allWords().catch(() => undefined) // who shows the next thing tries again
  return ''
}

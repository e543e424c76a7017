import { compile, registerMessageCompiler } from '@intlify/core-base'
import { createI18n } from 'vue-i18n'

import first from 'texts:first'

/** What has a blank or a plural comes compiled; a plain text says what it says. */
registerMessageCompiler((text, context) => (typeof text === 'string' ? () => text : compile(text, context)))

/** The labels of the interface; sentences and notes come ready from the server. What is shown
 * before its texts have come is silent until then. */
export const words = createI18n({ legacy: false, locale: 'en', messages: { en: first }, missing: (_locale, key) => silent(key) })

let come = false
let coming: Promise<void> | null = null
export function allWords(): Promise<void> {
  coming ??= import('texts:later').then(
    ({ default: later }) => {
      come = true
      words.global.mergeLocaleMessage('en', later)
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

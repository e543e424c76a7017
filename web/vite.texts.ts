import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

import { baseCompile } from '@intlify/message-compiler'

import type { Plugin } from 'vite'

type Words = { [key: string]: string | Words }

const catalogue = fileURLToPath(new URL('../locales/en.json', import.meta.url))

/** What no first view of a study shows: these sections of the catalogue, and of the words of a
 * method all but the name of its act. */
const later = [
  'arrange', 'check', 'codebook', 'condition', 'derive', 'design', 'find', 'grid', 'intake', 'keys', 'lists', 'quick', 'report_page',
  'responses', 'shares', 'studies', 'subgroups', '$vuetify',
]

function split(ui: Words): { first: Words; later: Words } {
  const parts = { first: {} as Words, later: {} as Words }
  for (const [section, words] of Object.entries(ui)) if (section !== 'ask') parts[later.includes(section) ? 'later' : 'first'][section] = words
  const acts = Object.entries(ui.ask as Record<string, string | { act: string }>).map(([method, words]) => [method, typeof words === 'string' ? words : { act: words.act }])
  parts.first.ask = Object.fromEntries(acts)
  parts.later.ask = ui.ask as Words
  return parts
}

/** Plain texts stay as they are; what has blanks or a plural is compiled here, so that no compiler is sent. */
function compiled(words: Words): unknown {
  return Object.fromEntries(
    Object.entries(words).map(([key, text]) => {
      if (typeof text !== 'string') return [key, compiled(text)]
      return [key, /[{|@]/.test(text) ? baseCompile(text, { jit: true, minify: true, location: false }).ast : text]
    }),
  )
}

/** The texts of the interface, in two modules: those of the first view and those that come later. */
export const texts: Plugin = {
  name: 'texts',
  resolveId: (id) => (/^texts:(first|later)$/.test(id) ? `\0${id}` : null),
  load(id) {
    const part = /^\0texts:(first|later)$/.exec(id)?.[1]
    if (!part) return null
    this.addWatchFile(catalogue)
    const parts = split((JSON.parse(readFileSync(catalogue, 'utf8')) as { ui: Words }).ui)
    return `export default JSON.parse(${JSON.stringify(JSON.stringify(compiled(parts[part as keyof typeof parts])))})`
  },
}

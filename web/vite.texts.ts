import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

import type { Plugin } from 'vite'

type Words = { [key: string]: string | Words }

const catalogue = fileURLToPath(new URL('../locales/en.json', import.meta.url))

/** What no first view of a study shows: these sections of the catalogue, and of the words of a
 * method all but the name of its act. */
const later = [
  'acts', 'arrange', 'check', 'codebook', 'condition', 'derive', 'design', 'find', 'grid', 'guide', 'intake', 'keys', 'lists', 'quick', 'report_page',
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

/** Plain texts stay as they are; what has blanks is cut into its pieces here: words, the place of a
 * value, {n}, or words whose form follows one, {n|one|other}. As the library knows a message, t is 0
 * and b its body. */
function compiled(words: Words): unknown {
  return Object.fromEntries(
    Object.entries(words).map(([key, text]) => [key, typeof text !== 'string' ? compiled(text) : /\{/.test(text) ? { t: 0, b: pieces(text) } : text]),
  )
}
const blank = /\{(?:'([^']*)'|(\w+)((?:\|[^|{}]*)*))\}/g
function pieces(text: string): (string | string[])[] {
  const out: (string | string[])[] = []
  let from = 0
  for (const found of text.matchAll(blank)) {
    const [all, literal, name, forms] = found
    if (found.index > from) out.push(text.slice(from, found.index))
    out.push(literal ?? [name!, ...forms!.split('|').slice(1)])
    from = found.index + all.length
  }
  return from < text.length ? [...out, text.slice(from)] : out
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

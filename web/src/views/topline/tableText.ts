import { count, fixed } from '@/app/format'

import type { Question } from '@/api/client'
import type { Base } from './types'

/** The tally as tab-separated text for a spreadsheet or document, exactly as it is
 * shown. Texts that a spreadsheet would take for a formula are neutralised. */
export function tableText(question: Question, base: Base, decimals: number): string {
  const lines = [[question.wording], ['Answer', 'Count', base === 'answered' ? '% of answered' : '% of everyone']]
  const rows = base === 'answered' ? question.rows : [...question.rows, ...question.missingRows]
  for (const r of rows) {
    const percent = base === 'answered' ? r.percentOfAnswered : r.percentOfEveryone
    lines.push([r.label, count(r.count), percent === null ? '' : fixed(percent, decimals)])
  }
  lines.push(['n', count(base === 'answered' ? question.answered : question.everyone), ''])
  return lines.map((cells) => cells.map(safe).join('\t')).join('\n')
}

function safe(cell: string): string {
  const flat = cell.replace(/[\t\r\n]+/g, ' ')
  return /^[=+\-@]/.test(flat) ? `'${flat}` : flat
}

// Reads what govulncheck -format json has found, and writes a line for each: id, module, the version that mends it.
import { readFileSync } from 'node:fs'

const text = readFileSync(0, 'utf8')
const found = new Map()
// Objects follow each other without commas between them.
for (const raw of text.split(/\n(?=\{)/)) {
  const { finding } = JSON.parse(raw)
  const at = finding?.trace?.[0]
  if (at?.package) found.set(finding.osv, `${finding.osv} ${at.module} ${finding.fixed_version ?? '-'}`)
}
console.log([...found.values()].sort().join('\n'))

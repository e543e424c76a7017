// Writes the faults of a folder of OSV files as the database that govulncheck reads:
// node scripts/vulndb.mjs FROM TO
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const [from, to] = process.argv.slice(2)
const modules = new Map()
const vulns = []
for (const folder of ['index', 'ID']) mkdirSync(join(to, folder), { recursive: true })
for (const name of readdirSync(from)) {
  const raw = readFileSync(join(from, name), 'utf8')
  const { id, modified, aliases, affected = [] } = JSON.parse(raw)
  writeFileSync(join(to, 'ID', name), raw)
  vulns.push({ id, modified, aliases })
  for (const one of affected) {
    const of = modules.get(one.package.name) ?? modules.set(one.package.name, []).get(one.package.name)
    const fixed = (one.ranges ?? []).flatMap((r) => r.events ?? []).map((e) => e.fixed).filter(Boolean).at(-1)
    if (!of.some((v) => v.id === id)) of.push({ id, modified, ...(fixed && { fixed }) })
  }
}
const put = (name, value) => writeFileSync(join(to, 'index', name), JSON.stringify(value))
put('modules.json', [...modules].sort().map(([path, of]) => ({ path, vulns: of })))
put('vulns.json', vulns)
put('db.json', { modified: '2020-01-01T00:00:00Z' })

// Lists the licences of all that ships with the application: the Go modules linked into
// the program and the packages built into the page. Fails on one that it does not know.
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync, readdirSync } from 'node:fs'

const known = [
  ['Apache-2.0', /Apache License\s+Version 2\.0/],
  ['MPL-2.0', /Mozilla Public License,? (Version|v\.) 2\.0/i],
  ['Unlicense', /free and unencumbered software released into the public domain/],
  ['MIT', /Permission is hereby granted, free of charge/],
  ['BSD-3-Clause', /Redistribution and use in source and binary forms[\s\S]*(Neither the name|The names? of)/],
  ['BSD-2-Clause', /Redistribution and use in source and binary forms/],
]

function licenceOf(dir) {
  const file = readdirSync(dir).find((f) => /^(licen[cs]e|copying)/i.test(f))
  const text = file ? readFileSync(`${dir}/${file}`, 'utf8') : ''
  return known.find(([, pattern]) => pattern.test(text))?.[0]
}

const rows = []
const modules = execFileSync('go', ['list', '-deps', '-f', '{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}', './cmd/widetally'], { encoding: 'utf8' })
for (const line of new Set(modules.split('\n').filter(Boolean))) {
  const [path, version, dir] = line.split('\t')
  rows.push([path, version, licenceOf(dir)])
}
const lock = JSON.parse(readFileSync('web/package-lock.json', 'utf8'))
for (const [place, entry] of Object.entries(lock.packages)) {
  if (!place || entry.dev || entry.optional || entry.peer || !existsSync(`web/${place}`)) continue
  rows.push([place.replace(/^.*node_modules\//, ''), entry.version, entry.license ?? JSON.parse(readFileSync(`web/${place}/package.json`, 'utf8')).license])
}
// The letters that stand in documents and pictures, as files beside the program (internal/faces).
rows.push(['Source Sans 3 (documents)', '3.052', 'OFL-1.1'], ['Source Serif 4 (documents)', '4.005', 'OFL-1.1'])
const unknown = rows.filter(([, , licence]) => !licence)
if (unknown.length > 0) {
  console.error(`licences: not known: ${unknown.map(([name]) => name).join(', ')}`)
  process.exit(1)
}
rows.sort((a, b) => (a[0] < b[0] ? -1 : a[0] > b[0] ? 1 : 0))
console.log('# Licences\n\nWide Tally itself is under the MIT licence (`LICENSE`). What ships with it, as `make licences` lists it; MariaDB and\nChromium are programs of the system, used and not shipped.\n')
console.log('| package | version | licence |\n|---|---|---|')
for (const row of rows) console.log(`| ${row.join(' | ')} |`)

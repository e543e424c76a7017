// What is done with what was built: it is told which scripts each place beyond the first view needs, so
// that the server can name them in the page, and compressed, once and as well as it can be, so
// that no request waits for it.
import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { brotliCompressSync, constants } from 'node:zlib'

const dist = new URL('./dist/', import.meta.url)
const manifest = JSON.parse(readFileSync(new URL('.vite/manifest.json', dist)))
const filesOf = (key, seen = new Set()) => {
  if (seen.has(key)) return seen
  seen.add(key)
  for (const other of manifest[key].imports ?? []) filesOf(other, seen)
  return seen
}
const first = filesOf('index.html')
const early = Object.values(manifest).find((chunk) => chunk.name === 'early').file
/** What those places stand on (src/app/later.ts). */
const later = ['src/app/library.ts', 'texts:later']
const places = {}
for (const [key, chunk] of Object.entries(manifest)) {
  const place = /^src\/views\/(\w+)\/index\.ts$/.exec(key)?.[1]
  if (!place) continue
  const needed = filesOf(key)
  for (const other of later) filesOf(other, needed)
  const keys = [...needed].filter((other) => !first.has(other))
  places[place] = { scripts: keys.map((other) => manifest[other].file), styles: [...new Set(keys.flatMap((other) => manifest[other].css ?? []))] }
}
// The name of the application is painted before its styles and scripts have come.
const page = new URL('index.html', dist)
const styles = []
const html = readFileSync(page, 'utf8').replace(/\s*<link rel="stylesheet"[^>]*>/g, (link) => (styles.push(link.trim()), ''))
// What asks for the figures does so before the rest has come.
const soon = html.replace(new RegExp(`\\s*<link[^>]*${early}">`), '').replace('<script', `<script type="module" async crossorigin src="/${early}"></script>\n    <script`)
// The letters of the first view come with its styles; named in the head they would hold the first paint back.
const letters = readdirSync(new URL('assets/', dist)).filter((name) => /-latin-wght-normal-.*\.woff2$/.test(name))
for (const name of letters) styles.push(`<link rel="preload" as="font" type="font/woff2" crossorigin href="/assets/${name}">`)
writeFileSync(page, soon.replace('</body>', styles.map((link) => `  ${link}\n  `).join('') + '</body>'))

// Nearly all of the first view's functions are called as it is drawn: the browser compiles them while
// they arrive, beside the page, not one by one when they are called.
for (const key of first) {
  const script = new URL(manifest[key].file, dist)
  writeFileSync(script, '//# allFunctionsCalledOnLoad\n' + readFileSync(script, 'utf8'))
}

writeFileSync(new URL('places.json', dist), JSON.stringify(places))
rmSync(new URL('.vite', dist), { recursive: true })

const folder = new URL('assets/', dist)
for (const name of readdirSync(folder)) {
  if (!/\.(js|css|svg)$/.test(name)) continue
  const raw = readFileSync(new URL(name, folder))
  const small = brotliCompressSync(raw, { params: { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_SIZE_HINT]: raw.length } })
  if (small.length < raw.length) writeFileSync(new URL(`${name}.br`, folder), small)
}

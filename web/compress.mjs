// Compresses what was built, once and as well as it can be, so that no request waits for it.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { brotliCompressSync, constants } from 'node:zlib'

const folder = new URL('./dist/assets/', import.meta.url)
for (const name of readdirSync(folder)) {
  if (!/\.(js|css|svg)$/.test(name)) continue
  const raw = readFileSync(new URL(name, folder))
  const small = brotliCompressSync(raw, { params: { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_SIZE_HINT]: raw.length } })
  if (small.length < raw.length) writeFileSync(new URL(`${name}.br`, folder), small)
}

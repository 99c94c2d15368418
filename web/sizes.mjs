// Keeps the promise that the handset and the first studio page stay small, gzipped, scripts alone.
import { readFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'

const manifest = JSON.parse(readFileSync('dist/.vite/manifest.json', 'utf8'))
const LIMITS = { 'handset.html': 200_000, 'index.html': 450_000 }

function scripts(key, seen = new Set()) {
  if (seen.has(key)) return seen
  seen.add(key)
  for (const next of manifest[key].imports ?? []) scripts(next, seen)
  return seen
}

let tooBig = false
for (const [entry, limit] of Object.entries(LIMITS)) {
  const bytes = [...scripts(entry)].reduce(
    (sum, key) => sum + gzipSync(readFileSync(`dist/${manifest[key].file}`)).length,
    0,
  )
  console.log(`${entry}: ${bytes} bytes of script gzipped, limit ${limit}`)
  tooBig ||= bytes > limit
}
process.exit(tooBig ? 1 : 0)

// Keeps the promise that the handset and the first studio page stay small, gzipped, scripts alone.
import { readFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'

const manifest = JSON.parse(readFileSync('dist/.vite/manifest.json', 'utf8'))
// what each front door loads for its first page: the studio begins on Today, and most go to a chapter with its bench
const PAGES = {
  'handset.html': { limit: 120_000, also: [] },
  'index.html': {
    limit: 300_000,
    also: ['src/studio/floor/Today.tsx', 'src/studio/parts/ChapterPage.tsx', 'src/studio/rules/BinBench.tsx'],
  },
}

function scripts(key, seen = new Set()) {
  if (seen.has(key)) return seen
  seen.add(key)
  for (const next of manifest[key].imports ?? []) scripts(next, seen)
  return seen
}

let tooBig = false
for (const [entry, { limit, also }] of Object.entries(PAGES)) {
  const loaded = new Set()
  for (const key of [entry, ...also]) scripts(key, loaded)
  const bytes = [...loaded].reduce((sum, key) => sum + gzipSync(readFileSync(`dist/${manifest[key].file}`)).length, 0)
  console.log(`${entry}: ${bytes} bytes of script gzipped, limit ${limit}`)
  tooBig ||= bytes > limit
}
process.exit(tooBig ? 1 : 0)

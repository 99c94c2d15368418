// Keeps the shell of the handset: its page, scripts and fonts. What the floor says is never kept; offline work comes later.
const SHELL = 'handset shell 1'
const PATIENCE_MS = 4000

self.addEventListener('install', (event) => {
  event.waitUntil(
    (async () => {
      const kept = await caches.open(SHELL)
      const page = await fetch('/handset', { cache: 'no-store' })
      const text = await page.clone().text()
      const parts = [...text.matchAll(/(?:src|href)="(\/assets\/[^"]+)"/g)].map((found) => found[1])
      await kept.put('/handset', page)
      await kept.addAll([...parts, '/mark.svg', '/handset.webmanifest'])
      await self.skipWaiting()
    })(),
  )
})

self.addEventListener('activate', (event) => {
  event.waitUntil(
    (async () => {
      for (const name of await caches.keys()) if (name !== SHELL) await caches.delete(name)
      await self.clients.claim()
    })(),
  )
})

self.addEventListener('fetch', (event) => {
  const url = new URL(event.request.url)
  if (event.request.method !== 'GET' || url.origin !== location.origin || url.pathname.startsWith('/api/')) return
  if (event.request.mode === 'navigate') event.respondWith(page())
  else if (url.pathname.startsWith('/assets/') || url.pathname === '/mark.svg') event.respondWith(part(event.request))
})

/** The page of today if it comes in time, else the one that was kept. */
async function page() {
  const kept = await caches.open(SHELL)
  try {
    const found = await fetch('/handset', { cache: 'no-store', signal: AbortSignal.timeout(PATIENCE_MS) })
    if (found.ok) await kept.put('/handset', found.clone())
    return found
  } catch {
    return (await kept.match('/handset')) ?? Response.error()
  }
}

/** Parts bear their content in their name, so one that is kept is right. */
async function part(request) {
  const kept = await caches.open(SHELL)
  const known = await kept.match(request)
  if (known) return known
  const found = await fetch(request)
  if (found.ok) await kept.put(request, found.clone())
  return found
}

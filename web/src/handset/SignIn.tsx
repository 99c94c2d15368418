import { useState } from 'react'
import { client, got, Trouble, type Shape } from '../shared/client'

/** Somebody takes a device over: by badge, or by name and password. */
export function SignIn({ done }: { done: (me: Shape['Me']) => void }) {
  const [login, setLogin] = useState('')
  const [password, setPassword] = useState('')
  const [badge, setBadge] = useState('')
  const [says, setSays] = useState('')
  const failed = (t: unknown) => setSays(t instanceof Trouble ? t.message : String(t))
  return (
    <main className="hs">
      <form
        className="hs-scan"
        onSubmit={(e) => {
          e.preventDefault()
          got(client.POST('/api/session/badge', { body: { badge } })).then(done, failed)
          setBadge('')
        }}
      >
        <input
          autoFocus
          value={badge}
          onChange={(e) => setBadge(e.target.value)}
          aria-label="Scan your badge"
          placeholder="scan your badge"
          autoComplete="off"
        />
        <button className="hs-btn plain" type="submit" aria-label="Enter">
          ↵
        </button>
      </form>
      <form
        className="hs-body"
        onSubmit={(e) => {
          e.preventDefault()
          got(client.POST('/api/session', { body: { login, password } })).then(done, failed)
        }}
      >
        <h1>Who are you?</h1>
        <label className="hs-note" htmlFor="login">
          Name
        </label>
        <div className="hs-scan">
          <input
            id="login"
            value={login}
            onChange={(e) => setLogin(e.target.value)}
            autoComplete="username"
            autoCapitalize="none"
          />
        </div>
        <label className="hs-note" htmlFor="password">
          Password
        </label>
        <div className="hs-scan">
          <input
            id="password"
            type="password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
            autoComplete="current-password"
          />
        </div>
        <div className={`hs-reply${says ? ' bad' : ''}`} role="status">
          {says}
        </div>
        <div className="hs-row">
          <button className="hs-btn main" type="submit">
            Sign in
          </button>
        </div>
      </form>
    </main>
  )
}

import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useForm } from 'react-hook-form'
import { client, got, type Shape } from '../../shared/client'

export function SignIn() {
  const queries = useQueryClient()
  const welcome = useQuery({ queryKey: ['welcome'], queryFn: () => got(client.GET('/api/welcome')) })
  const { register, handleSubmit } = useForm({ defaultValues: { login: '', password: '' } })
  const enter = useMutation({
    mutationFn: (who: { login: string; password: string }) => got(client.POST('/api/session', { body: who })),
    onSuccess: (me) => queries.setQueryData(['me'], me),
  })
  if (welcome.data?.nobody) return <First />
  return (
    <main className="signin">
      <form onSubmit={(e) => void handleSubmit((who) => enter.mutate(who))(e)}>
        <h1>Mindful Crate</h1>
        <p className="lead">
          Decide how a warehouse will work, and prove it on the handset before anybody depends on it.
        </p>
        <TextField label="Name" {...register('login')} autoFocus autoComplete="username" />
        <TextField label="Password" type="password" {...register('password')} autoComplete="current-password" />
        {enter.error && (
          <div role="alert" className="mark fails">
            ✕ {enter.error.message}
          </div>
        )}
        <Button type="submit" variant="contained" size="medium" disabled={enter.isPending}>
          Sign in
        </Button>
      </form>
      {welcome.data && welcome.data.demo.length > 0 && (
        <section>
          <h2>People of the demo</h2>
          <p className="quiet">
            Halloway Quay is made up. Sign in as anyone; the password is {welcome.data.demo[0]?.password}.
          </p>
          <table className="plain">
            <tbody>
              {welcome.data.demo.map((p) => (
                <tr key={p.login}>
                  <td>{p.name}</td>
                  <td className="quiet">{p.role}</td>
                  <td>
                    <Button onClick={() => enter.mutate({ login: p.login, password: p.password })}>
                      Sign in as {p.name.split(' ')[0]}
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </main>
  )
}

/** An empty product: the first analyst makes herself. */
function First() {
  const queries = useQueryClient()
  const { register, handleSubmit } = useForm({ defaultValues: { name: '', login: '', password: '' } })
  const make = useMutation({
    mutationFn: (body: Shape['First']) => got(client.POST('/api/first', { body })),
    onSuccess: (me) => queries.setQueryData(['me'], me),
  })
  const field = (name: 'name' | 'login' | 'password', label: string, more = {}) => (
    <TextField label={label} {...register(name)} required {...more} />
  )
  return (
    <main className="signin">
      <form onSubmit={(e) => void handleSubmit((body) => make.mutate(body))(e)}>
        <h1>Mindful Crate</h1>
        <p className="lead">Nobody is here yet. You are the first analyst: others are added on People later.</p>
        {field('name', 'Your name', { autoFocus: true })}
        {field('login', 'You sign in as', { autoComplete: 'username' })}
        {field('password', 'Password, eight characters or more', { type: 'password', autoComplete: 'new-password' })}
        {make.error && (
          <div role="alert" className="mark fails">
            ✕ {make.error.message}
          </div>
        )}
        <Button type="submit" variant="contained" size="medium" disabled={make.isPending}>
          Begin
        </Button>
      </form>
      <section>
        <h2>What comes next</h2>
        <p className="quiet">
          Make a site and lay out its bins. Bring items in, or make some. Let first rules be written from the zones,
          make a test order, and receive it on the handset.
        </p>
      </section>
    </main>
  )
}

import createClient from 'openapi-fetch'
import type { components, paths } from './generated/api'

export type Shape = components['schemas']

/** The API, typed by its own document. The header tells the server that the request came from our pages. */
export const client = createClient<paths>({ headers: { 'X-Mindful-Crate': '1' } })

/** A refusal or failure in words. `status` 0 means that the server could not be reached. */
export class Trouble extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly code: string,
    readonly changed: string[] = [],
  ) {
    super(message)
  }
}

type Got<T> = { data?: T; error?: unknown; response: Response }

/** The answer of a request, or a Trouble that says what is so. */
export async function got<T>(request: Promise<Got<T>>): Promise<NonNullable<T>> {
  let answer: Got<T>
  try {
    answer = await request
  } catch {
    throw new Trouble('The server is out of reach. Nothing is lost; it is tried again.', 0, 'unreachable')
  }
  if (answer.response.ok) return answer.data as NonNullable<T>
  const problem = answer.error as Partial<Shape['Problem']> | undefined
  throw new Trouble(
    problem?.title ?? `The server answered ${answer.response.status}.`,
    answer.response.status,
    problem?.code ?? 'http',
    problem?.changed ?? [],
  )
}

/** What the API answers to files: they go as a form, which the typed client does not write. */
export async function sent<T>(
  path: '/api/ground/imports' | '/api/pictures' | '/api/photos' | `/api/worlds/${string}/read`,
  form: FormData,
): Promise<T> {
  return read<T>(fetch(path, { method: 'POST', body: form, headers: { 'X-Mindful-Crate': '1' } }))
}

/** The answer of a request that the typed client did not make. */
export async function read<T>(answer: Promise<Response>): Promise<T> {
  return (await got<T>(
    answer.then(async (response) => {
      const body: unknown = await response.json()
      return response.ok ? { data: body as T, response } : { error: body, response }
    }),
  )) as T
}

/** An id for a command. Works without a secure context too, for a phone on the local network. */
export function newId(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')
}

import createClient from 'openapi-fetch'
import type { paths } from './schema'
import type { Problem } from './types'

/** An answer that was not what was asked for, as the server described it. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.title)
  }
}

/** What this tab calls itself, so that it knows the changes that it asked for. */
export const tab = crypto.randomUUID()

let csrf = ''

/** Every change carries the session's token back. */
export function setCSRF(token: string | undefined): void {
  csrf = token ?? ''
}

let seeAs = 0

/** A builder looks through somebody else's eyes; nothing can be changed meanwhile. */
export function setSeeAs(person: number): void {
  seeAs = person
}

export const seenAs = (): number => seeAs

const lost: Problem = {
  type: 'connection',
  title: 'The server does not answer. What you entered is still here; try again in a moment.',
  status: 0,
}

type Renewal = () => Promise<boolean>
const renewals = new Map<string, Renewal>()

/**
 * How a request is helped on that the server did not take for whose it was: because the session
 * has ended, or because another tab has begun a new one. It is sent again where that succeeds.
 */
export function onSession(ended: Renewal, changed: Renewal): void {
  renewals.set('signed-out', ended)
  renewals.set('other-session', changed)
}

/** How long to wait before what counts once is sent again while the database is away, in milliseconds. */
export const pauses = [500, 1500, 4000]

const away = (problem: Problem | undefined) =>
  ['away', 'unknown', 'crowded', 'busy'].includes(problem?.type ?? '')

const onceKey = 'Idempotency-Key'

/** Sends a request as it is now: whose it is, from which tab, and through whose eyes. */
async function once(request: Request): Promise<Response> {
  const sent = request.clone()
  sent.headers.set('X-CSRF-Token', csrf)
  sent.headers.set('X-Tab', tab)
  if (seeAs) sent.headers.set('X-See-As', String(seeAs))
  try {
    return await window.fetch(sent)
  } catch (error) {
    if (request.signal.aborted) throw error
    throw new ProblemError(lost)
  }
}

/** What an answer says is wrong; nothing where it is what was asked for. */
async function wrong(response: Response): Promise<Problem | undefined> {
  if (response.ok) return undefined
  try {
    return (await response.clone().json()) as Problem
  } catch {
    return { ...lost, status: response.status }
  }
}

/** What looks, or counts once, is sent again where the server could not do it just then. */
async function patiently(request: Request): Promise<Response> {
  for (const pause of request.method === 'GET' || request.headers.has(onceKey) ? pauses : []) {
    const response = await once(request)
    if (!away(await wrong(response))) return response
    await new Promise((done) => setTimeout(done, pause))
  }
  return once(request)
}

/** Sends a request, and once more where its session could be renewed. */
async function send(request: Request): Promise<Response> {
  const response = await patiently(request)
  const renew = renewals.get((await wrong(response))?.type ?? '')
  if (!renew || new URL(request.url).pathname === '/api/session' || !(await renew())) return response
  return once(request)
}

/** The server, by its addresses: what each takes and gives is known from its description. */
export const api = createClient<paths>({ baseUrl: '/api', fetch: send })

/** The addresses that are the same in Use and in every space of Build, without what is before them. */
type Seated = {
  [
    P in keyof paths as P extends `/use${infer Rest}`
      ? `/build/spaces/{space}${Rest}` extends keyof paths
        ? Rest
        : never
      : never
  ]: paths[P]
}

/** Where somebody is at work: in Use, or in a space of Build. */
export type Base = '/use' | `/build/spaces/${string}`

const seats = new Map<string, ReturnType<typeof createClient<Seated>>>()

/** The server as it is in Use or in a space. */
export function seated(base: Base): ReturnType<typeof createClient<Seated>> {
  const there = seats.get(base) ?? createClient<Seated>({ baseUrl: '/api' + base, fetch: send })
  seats.set(base, there)
  return there
}

/** What the server gives, or the problem that it tells of. */
export async function given<T>(
  asked: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<Exclude<T, undefined>> {
  const { data, error, response } = await asked
  if (response.ok) return data as Exclude<T, undefined>
  const described = typeof error === 'object' && error !== null && 'title' in error
  throw new ProblemError(described ? (error as Problem) : { ...lost, status: response.status })
}

/** Lets a request count once, however often it is sent. */
export const counts = (key: string) => ({ headers: { [onceKey]: key } })

/** A piece of a file, sent as it is. */
export const bytes = (piece: Blob) => ({
  body: '',
  bodySerializer: () => piece,
  headers: { 'Content-Type': 'application/octet-stream' },
})

/** A key that makes a request count once, however often it is sent. */
export function requestKey(): string {
  return crypto.randomUUID()
}

export function titleOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}

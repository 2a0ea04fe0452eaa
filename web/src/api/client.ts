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

const away = (error: unknown) =>
  error instanceof ProblemError && ['away', 'unknown', 'crowded', 'busy'].includes(error.problem.type)

/** What looks, or counts once, is sent again where the server could not do it just then. */
async function patiently<T>(method: string, path: string, body?: unknown, key?: string): Promise<T> {
  for (const pause of method === 'GET' || key ? pauses : []) {
    try {
      return await once<T>(method, path, body, key)
    } catch (error) {
      if (!away(error)) throw error
      await new Promise((done) => setTimeout(done, pause))
    }
  }
  return once<T>(method, path, body, key)
}

async function send<T>(method: string, path: string, body?: unknown, key?: string): Promise<T> {
  try {
    return await patiently<T>(method, path, body, key)
  } catch (error) {
    const renew = error instanceof ProblemError && path !== '/session' && renewals.get(error.problem.type)
    if (!renew || !(await renew())) throw error
    return once<T>(method, path, body, key)
  }
}

async function once<T>(method: string, path: string, body?: unknown, key?: string): Promise<T> {
  const headers: Record<string, string> = { 'X-CSRF-Token': csrf, 'X-Tab': tab }
  const bytes = body instanceof Blob
  if (body !== undefined) headers['Content-Type'] = bytes ? 'application/octet-stream' : 'application/json'
  if (key) headers['Idempotency-Key'] = key
  if (seeAs) headers['X-See-As'] = String(seeAs)
  let response: Response
  try {
    response = await fetch('/api' + path, {
      method,
      headers,
      body: body === undefined || bytes ? body : JSON.stringify(body),
    })
  } catch {
    throw new ProblemError(lost)
  }
  if (response.status === 204) return undefined as T
  const text = await response.text()
  if (response.ok) return JSON.parse(text) as T
  try {
    throw new ProblemError(JSON.parse(text) as Problem)
  } catch (error) {
    if (error instanceof ProblemError) throw error
    throw new ProblemError({ ...lost, status: response.status })
  }
}

export const api = {
  get: <T>(path: string) => send<T>('GET', path),
  post: <T>(path: string, body: unknown, key?: string) => send<T>('POST', path, body, key),
  put: <T>(path: string, body: unknown) => send<T>('PUT', path, body),
  patch: <T>(path: string, body: unknown, key?: string) => send<T>('PATCH', path, body, key),
  remove: (path: string, key?: string) => send<undefined>('DELETE', path, undefined, key),
  /** Removes something and gives what there is then. */
  end: <T>(path: string) => send<T>('DELETE', path),
}

/** Sends a piece of a file as it is. */
export const sendBytes = <T>(path: string, piece: Blob) => send<T>('PUT', path, piece)

/** A key that makes a request count once, however often it is sent. */
export function requestKey(): string {
  return crypto.randomUUID()
}

export function titleOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}

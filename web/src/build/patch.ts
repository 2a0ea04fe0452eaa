import type { Op } from '@/api/types'

type Holder = Record<string, unknown> | unknown[]

const token = (t: string) => t.replace(/~1/g, '/').replace(/~0/g, '~')

/** The value that holds what a pointer points at, and under what. */
function holder(document: unknown, path: string): { at?: Holder; last: string } {
  const tokens = path.split('/').slice(1).map(token)
  const last = tokens.pop() ?? ''
  let at = document as Holder | undefined
  for (const key of tokens) at = (at as Record<string, unknown> | undefined)?.[key] as Holder | undefined
  return { at: typeof at === 'object' && at !== null ? at : undefined, last }
}

/** The value that a pointer points at. */
export function at(document: unknown, path: string): unknown {
  const { at: from, last } = holder(document, path)
  return path === '' ? document : (from as Record<string, unknown> | undefined)?.[last]
}

const copy = <T>(value: T): T => (value === undefined ? value : (JSON.parse(JSON.stringify(value)) as T))

/** A document after a JSON Patch of additions, removals, replacements and moves (RFC 6902). */
export function applied<T>(document: T, patch: Op[]): T {
  const out = copy(document)
  for (const op of patch) {
    const { at, last } = holder(out, op.path)
    if (at === undefined) continue
    const value = copy(op.value) // a later operation may change it, and the patch is yet to be sent
    if (Array.isArray(at)) {
      const index = last === '-' ? at.length : Number(last)
      if (op.op === 'add') at.splice(index, 0, value)
      else if (op.op === 'remove') at.splice(index, 1)
      else if (op.op === 'move') at.splice(index, 0, ...at.splice(Number(holder(out, op.from ?? '').last), 1))
      else at[index] = value
    } else if (op.op === 'remove') delete at[last]
    else at[last] = value
  }
  return out
}

/**
 * A patch in which lists that were set as a whole are changed element by element instead, so
 * that what others do to other elements meanwhile is no clash. "The end of the list" becomes a
 * place, which stays right when the patch is carried over others.
 */
export function fine<T>(document: T, patch: Op[]): Op[] {
  let now = document
  const out: Op[] = []
  for (const op of patch) {
    const { at, last } = holder(now, op.path)
    const sets = op.op === 'replace' || (op.op === 'add' && !Array.isArray(at))
    const was = sets ? (at as Record<string, unknown> | undefined)?.[last] : undefined
    if (Array.isArray(was) && Array.isArray(op.value)) out.push(...elements(op.path, was, op.value))
    else if (last === '-' && Array.isArray(at))
      out.push({ ...op, path: `${op.path.slice(0, -1)}${at.length}` })
    else out.push(op)
    now = applied(now, [op])
  }
  return out
}

/** What an element of a list is told by: its key, what it looks at, or all that it is. */
function identity(element: unknown): string {
  if (typeof element === 'object' && element !== null) {
    const { key, path } = element as Record<string, unknown>
    if (typeof key === 'string') return 'key ' + key
    if (typeof path === 'string') return 'path ' + path
  }
  return JSON.stringify(element)
}

/** The operations that turn one list into another. */
function elements(pointer: string, was: unknown[], is: unknown[]): Op[] {
  const wanted = is.map(identity)
  const had = was.map(identity)
  // Elements that cannot be told apart are no elements to be moved.
  if (new Set(wanted).size < wanted.length || new Set(had).size < had.length)
    return [{ op: 'replace', path: pointer, value: is }]
  const ops: Op[] = []
  const list = [...was]
  for (let i = list.length - 1; i >= 0; i--) {
    if (wanted.includes(identity(list[i]))) continue
    ops.push({ op: 'remove', path: `${pointer}/${i}` })
    list.splice(i, 1)
  }
  is.forEach((element, i) => {
    const from = list.findIndex((e) => identity(e) === wanted[i])
    if (from < 0) {
      ops.push({ op: 'add', path: `${pointer}/${i}`, value: element })
      list.splice(i, 0, element)
      return
    }
    if (from !== i) {
      // One that goes down is one move, where bringing up all that follow it were many.
      const down = list.length > i + 1 && identity(list[i + 1]) === wanted[i]
      const to = down ? wanted.indexOf(identity(list[i])) : i
      const [source, target] = down ? [i, Math.min(to, list.length - 1)] : [from, i]
      ops.push({ op: 'move', from: `${pointer}/${source}`, path: `${pointer}/${target}` })
      list.splice(target, 0, ...list.splice(source, 1))
    }
    if (JSON.stringify(list[i]) !== JSON.stringify(element))
      ops.push({ op: 'replace', path: `${pointer}/${i}`, value: element })
    list[i] = element
  })
  return ops
}

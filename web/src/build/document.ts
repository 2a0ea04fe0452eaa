import { useToast } from 'primevue/usetoast'
import { computed, ref, shallowRef } from 'vue'
import { api, ProblemError, requestKey, titleOf } from '@/api/client'
import type { Change, DocumentView, Obstacle, Op, Sent } from '@/api/types'
import { useBuild } from './build'
import { applied, fine } from './patch'
import { useRemoval } from './removal'

/** Documents that are read and edited on a page of their own. */
export type DocumentKind = 'walkthrough' | 'page'

/** One operation of a JSON Patch. "add" on a member of an object also replaces it. */
export function put(path: string, value: unknown): Op {
  return { op: 'add', path, value }
}

/** An element goes to another place of its list, counted when it is out. */
export function moved(list: string, from: number, to: number): Op {
  return { op: 'move', from: `${list}/${from}`, path: `${list}/${to}` }
}

export function swap(path: string, value: unknown): Op {
  return { op: 'replace', path, value }
}

export function drop(path: string): Op {
  return { op: 'remove', path }
}

/** The patch that turns the members of one object into those of another. */
export function changes(pointer: string, before: object, after: object): Op[] {
  const was = before as Record<string, unknown>
  const is = after as Record<string, unknown>
  const ops: Op[] = []
  for (const key of new Set([...Object.keys(was), ...Object.keys(is)])) {
    if (JSON.stringify(was[key]) === JSON.stringify(is[key])) continue
    if (is[key] === undefined) ops.push(drop(`${pointer}/${key}`))
    else ops.push(put(`${pointer}/${key}`, is[key]))
  }
  return ops
}

/**
 * A document of the draft. Edits are sent one after another as patches, each with the
 * revision and the edits before it that it was made on; there is nothing to save.
 */
export function useDocument<T>(kind: string, key: () => string) {
  const build = useBuild()
  const toast = useToast()
  const view = shallowRef<DocumentView | null>(null)
  const body = computed(() => view.value?.body as T | undefined)
  const removable = useRemoval(kind, key)
  const saving = ref(0)
  const failed = ref('')
  // Stored records that stood in the way of the latest change.
  const obstacles = shallowRef<Obstacle[]>([])
  // The change they stood in the way of, to be made once they are mended.
  let hindered: Change | undefined
  // What the body here was made of: a revision, and the edits that were made on it since.
  let base = 0
  let before: Sent[] = []
  let refusals = 0
  const address = (tail = '') => `/build/documents/${kind}/${encodeURIComponent(key())}${tail}`
  let queue: Promise<unknown> = Promise.resolve()

  async function load(): Promise<void> {
    failed.value = ''
    try {
      show(await api.get<DocumentView>(address()))
    } catch (error) {
      view.value = null
      failed.value = titleOf(error)
    }
  }

  function show(next: DocumentView): void {
    view.value = next
    base = next.revision
    before = []
  }

  function change(work: () => Promise<DocumentView>, made?: Change): Promise<boolean> {
    saving.value++
    const known = refusals
    const done = queue.then(async () => {
      try {
        if (made && known !== refusals) {
          toast.add({
            severity: 'error',
            summary: 'Not changed either',
            detail: 'It was made right after a change that was not taken. Make it again.',
            life: 8000,
          })
          return false
        }
        take(await work())
        obstacles.value = []
        void build.load()
        return true
      } catch (error) {
        await refused(error, made)
        return false
      } finally {
        saving.value--
      }
    })
    queue = done
    return done
  }

  /** While later edits are on their way, what they do here already stays. */
  function take(next: DocumentView): void {
    if (saving.value > 1 && view.value) view.value = { ...next, body: view.value.body }
    else show(next)
  }

  async function refused(error: unknown, made?: Change): Promise<void> {
    const problem = error instanceof ProblemError ? error.problem : undefined
    if (made) refusals++
    await load()
    if (problem?.clash) {
      const { theirs, ours } = problem.clash
      toast.add({
        severity: 'warn',
        summary: 'Somebody else changed this meanwhile',
        detail: `Theirs stands: ${JSON.stringify(theirs) ?? 'removed'}. Yours was: ${JSON.stringify(ours) ?? 'removed'}. Set it again if yours is right.`,
        life: 12000,
      })
    } else if (problem?.obstacles) {
      obstacles.value = problem.obstacles
      hindered = made
    } else {
      toast.add({ severity: 'error', summary: 'Not changed', detail: titleOf(error), life: 8000 })
    }
  }

  function edit(...wanted: Op[]): Promise<boolean> {
    const request = requestKey()
    const patch = view.value ? fine(view.value.body, wanted) : wanted
    const made: Change = { base, before: [...before], patch }
    // It shows at once; the server's answer takes its place.
    if (view.value) view.value = { ...view.value, body: applied(view.value.body, patch) }
    before.push({ request, patch })
    return send(made, request)
  }

  function send(made: Change, request: string): Promise<boolean> {
    return change(() => api.patch<DocumentView>(address(), made, request), made)
  }

  function rename(pointer: string, from: string, to: string): Promise<boolean> {
    return change(async () => {
      await api.post(address('/rename'), { pointer, from, key: to.trim() })
      return api.get<DocumentView>(address())
    })
  }

  /** Gives all records of an obstacle one value, and makes the change when none is left. */
  async function mend(o: Obstacle, value: unknown): Promise<void> {
    const made = hindered
    if (!made) return
    try {
      const ask = { ...made, object: o.object, field: o.field, rule: o.rule, value }
      const { mended } = await api.post<{ mended: number }>('/build/spaces/trial/mend', ask)
      toast.add({
        severity: 'info',
        summary: `${mended} ${mended === 1 ? 'record was' : 'records were'} changed`,
        life: 5000,
      })
      await send(made, requestKey())
    } catch (error) {
      toast.add({ severity: 'error', summary: 'Not changed', detail: titleOf(error), life: 8000 })
    }
  }

  const undo = () => change(() => api.post<DocumentView>(address('/undo'), {}, requestKey()))
  const redo = () => change(() => api.post<DocumentView>(address('/redo'), {}, requestKey()))

  return { view, body, saving, failed, obstacles, load, edit, rename, removable, mend, undo, redo }
}

export type Rename = (pointer: string, from: string, to: string) => Promise<boolean>
export type Edit = (...patch: Op[]) => Promise<boolean>

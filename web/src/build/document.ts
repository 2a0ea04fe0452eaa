import { useToast } from 'primevue/usetoast'
import { computed, ref, shallowRef } from 'vue'
import { api, ProblemError, requestKey, titleOf } from '@/api/client'
import type { DocumentView, Obstacle, Op } from '@/api/types'
import { useBuild } from './build'
import { applied, fine } from './patch'

/** Documents that are read and edited on a page of their own. */
export type DocumentKind = 'walkthrough' | 'page'

/** One operation of a JSON Patch. "add" on a member of an object also replaces it. */
export function put(path: string, value: unknown): Op {
  return { op: 'add', path, value }
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
 * A document of the draft. Edits are sent one after another as patches against the
 * revision they were made on; there is nothing to save.
 */
export function useDocument<T>(kind: string, key: () => string) {
  const build = useBuild()
  const toast = useToast()
  const view = shallowRef<DocumentView | null>(null)
  const body = computed(() => view.value?.body as T | undefined)
  const saving = ref(0)
  const failed = ref('')
  // Stored records that stood in the way of the latest change.
  const obstacles = shallowRef<Obstacle[]>([])
  // The change they stood in the way of, to be made once they are mended.
  let hindered: Op[] = []
  const address = (tail = '') => `/build/documents/${kind}/${encodeURIComponent(key())}${tail}`
  let queue: Promise<unknown> = Promise.resolve()

  async function load(): Promise<void> {
    failed.value = ''
    try {
      view.value = await api.get<DocumentView>(address())
    } catch (error) {
      view.value = null
      failed.value = titleOf(error)
    }
  }

  function change(work: () => Promise<DocumentView>, patch: Op[] = []): Promise<boolean> {
    saving.value++
    const done = queue.then(async () => {
      try {
        take(await work())
        obstacles.value = []
        void build.load()
        return true
      } catch (error) {
        await refused(error, patch)
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
    view.value = saving.value > 1 && view.value ? { ...next, body: view.value.body } : next
  }

  async function refused(error: unknown, patch: Op[]): Promise<void> {
    const problem = error instanceof ProblemError ? error.problem : undefined
    if (problem?.clash) {
      const { theirs, ours } = problem.clash
      toast.add({
        severity: 'warn',
        summary: 'Somebody else changed this meanwhile',
        detail: `Theirs stands: ${JSON.stringify(theirs) ?? 'removed'}. Yours was: ${JSON.stringify(ours) ?? 'removed'}. Set it again if yours is right.`,
        life: 12000,
      })
      await load()
      return
    }
    await load()
    if (problem?.obstacles) {
      obstacles.value = problem.obstacles
      hindered = patch
      return
    }
    toast.add({ severity: 'error', summary: 'Not changed', detail: titleOf(error), life: 8000 })
  }

  function edit(...wanted: Op[]): Promise<boolean> {
    const request = requestKey()
    const patch = view.value ? fine(view.value.body, wanted) : wanted
    // It shows at once; the server's answer takes its place.
    if (view.value) view.value = { ...view.value, body: applied(view.value.body, patch) }
    // The base is read when the turn comes: the edits before it in the queue are our own.
    return change(
      () => api.patch<DocumentView>(address(), { base: view.value?.revision ?? 0, patch }, request),
      patch,
    )
  }

  /** Gives all records of an obstacle one value, and makes the change when none is left. */
  async function mend(o: Obstacle, value: unknown): Promise<void> {
    const patch = hindered
    try {
      const base = view.value?.revision ?? 0
      const ask = { object: o.object, base, patch, field: o.field, rule: o.rule, value }
      const { mended } = await api.post<{ mended: number }>('/build/spaces/trial/mend', ask)
      toast.add({
        severity: 'info',
        summary: `${mended} ${mended === 1 ? 'record was' : 'records were'} changed`,
        life: 5000,
      })
      await edit(...patch)
    } catch (error) {
      toast.add({ severity: 'error', summary: 'Not changed', detail: titleOf(error), life: 8000 })
    }
  }

  const undo = () => change(() => api.post<DocumentView>(address('/undo'), {}, requestKey()))
  const redo = () => change(() => api.post<DocumentView>(address('/redo'), {}, requestKey()))

  return { view, body, saving, failed, obstacles, load, edit, mend, undo, redo }
}

export type Edit = (...patch: Op[]) => Promise<boolean>

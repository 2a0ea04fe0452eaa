import { computed, ref, shallowRef } from 'vue'
import { api, counts, given, ProblemError, requestKey, titleOf } from '@/api/client'
import { useReach } from '@/api/reach'
import type { Change, DocumentView, Obstacle, Op, Sent } from '@/api/types'
import { applied, at, fine } from './patch'

/** Something that waits for the server's answer. */
export type Task =
  | { request: string; change: Change }
  | { request: string; way: 'undo' | 'redo' }
  | { request: string; pointer: string; from: string; to: string }

/** What somebody is told of a change that was not taken. */
export interface Refusal {
  severity: 'warn' | 'error'
  summary: string
  detail: string
}

/** Where what waits is kept, so that it is there after the page was loaded anew. */
export interface Kept {
  read(): Task[]
  write(tasks: Task[]): void
}

const written = (value: unknown) => JSON.stringify(value) ?? 'removed'

/**
 * A document of the draft and its outbox. Every edit shows at once and stays in the outbox, in
 * order, until the server has answered; it carries the revision and the edits before it that it
 * was made on. Where the connection is lost it is sent again with the same key.
 */
export function makeDraft(
  document: { kind: string; key: string },
  kept: Kept,
  tell: (refusal: Refusal) => void,
  changed: () => void,
) {
  const params = { path: document }
  const view = shallowRef<DocumentView | null>(null)
  const waiting = shallowRef<Task[]>(kept.read())
  const failed = ref('')
  // Stored records that stood in the way of the latest change.
  const obstacles = shallowRef<Obstacle[]>([])
  // The change they stood in the way of, to be made once they are mended.
  let hindered: Change | undefined
  // What the body here was made of: a revision, and the edits that were made on it since.
  let base = 0
  let before: Sent[] = []
  const { lost, reach, now } = useReach()
  const answered = new Map<string, (taken: boolean) => void>()
  let sending: Promise<void> | undefined
  let forgotten = false

  function show(next: DocumentView): void {
    view.value = next
    base = next.revision
    before = []
  }

  /** While later edits are on their way, what they do here already stays. */
  function take(next: DocumentView): void {
    if (waiting.value.length && view.value) view.value = { ...next, body: view.value.body }
    else show(next)
  }

  /** Reads the document; what waits to be sent from before goes first. */
  async function load(): Promise<void> {
    failed.value = ''
    obstacles.value = []
    if (waiting.value.length) {
      if (view.value) return
      await send()
      if (view.value) return
    }
    try {
      const next = await given(api.GET('/build/documents/{kind}/{key}', { params }))
      if (next.revision >= (view.value?.revision ?? 0)) take(next)
    } catch (error) {
      if (!view.value) failed.value = titleOf(error)
    }
  }

  function keep(tasks: Task[]): void {
    waiting.value = tasks
    kept.write(tasks)
  }

  function add(task: Task): Promise<boolean> {
    keep([...waiting.value, task])
    const done = new Promise<boolean>((resolve) => answered.set(task.request, resolve))
    void send()
    return done
  }

  function over(task: Task, taken: boolean): void {
    keep(waiting.value.filter((t) => t !== task))
    answered.get(task.request)?.(taken)
    answered.delete(task.request)
  }

  function send(): Promise<void> {
    sending ??= sendAll().finally(() => (sending = undefined))
    return sending
  }

  async function sendAll(): Promise<void> {
    while (waiting.value.length) {
      const task = waiting.value[0]
      try {
        const next = await reach((again) => carryOut(task, again))
        over(task, true)
        obstacles.value = []
        take(next)
      } catch (error) {
        if (forgotten) return
        await refused(task, error)
      }
      changed()
    }
  }

  async function carryOut(task: Task, again: boolean): Promise<DocumentView> {
    if (forgotten) throw new Error('forgotten')
    if ('change' in task)
      return given(
        api.PATCH('/build/documents/{kind}/{key}', { params, body: task.change, ...counts(task.request) }),
      )
    if ('way' in task)
      return given(
        task.way === 'undo'
          ? api.POST('/build/documents/{kind}/{key}/undo', { params, ...counts(task.request) })
          : api.POST('/build/documents/{kind}/{key}/redo', { params, ...counts(task.request) }),
      )
    const { pointer, from, to } = task
    if (again) {
      // It may have been done, with the answer lost.
      const is = await given(api.GET('/build/documents/{kind}/{key}', { params }))
      if ((at(is.body, pointer) as { key?: string } | undefined)?.key === to) return is
    }
    await given(
      api.POST('/build/documents/{kind}/{key}/rename', { params, body: { pointer, from, key: to } }),
    )
    return given(api.GET('/build/documents/{kind}/{key}', { params }))
  }

  /** A change that was not taken goes when what stands is shown, and with it those made on it. */
  async function refused(task: Task, error: unknown): Promise<void> {
    let stands: DocumentView | undefined
    try {
      stands = await reach(() => given(api.GET('/build/documents/{kind}/{key}', { params })))
    } catch (gone) {
      failed.value = titleOf(gone)
    }
    const lostToo = waiting.value.filter(
      (t) => 'change' in t && t.change.before?.some((b) => b.request === task.request),
    )
    over(task, false)
    for (const t of lostToo) over(t, false)
    const problem = error instanceof ProblemError ? error.problem : undefined
    if (problem?.obstacles && 'change' in task) {
      obstacles.value = problem.obstacles
      hindered = task.change
    } else if (problem?.clash)
      tell({
        severity: 'warn',
        summary: 'Somebody else changed this meanwhile',
        detail: `Theirs stands: ${written(problem.clash.theirs)}. Yours was: ${written(problem.clash.ours)}. Set it again if yours is right.`,
      })
    else tell({ severity: 'error', summary: 'Not changed', detail: titleOf(error) })
    if (lostToo.length)
      tell({
        severity: 'error',
        summary: lostToo.length === 1 ? 'Not changed either' : `${lostToo.length} more not changed either`,
        detail: 'Made right after a change that was not taken. Make it again.',
      })
    if (stands) show(stands)
    else view.value = null
  }

  function edit(...wanted: Op[]): Promise<boolean> {
    const request = requestKey()
    const patch = view.value ? fine(view.value.body, wanted) : wanted
    const change: Change = { base, before: [...before], patch }
    // It shows at once; the server's answer takes its place.
    if (view.value) view.value = { ...view.value, body: applied(view.value.body, patch) }
    before.push({ request, patch })
    return add({ request, change })
  }

  const rename = (pointer: string, from: string, to: string) =>
    add({ request: requestKey(), pointer, from, to: to.trim() })

  /** Gives all records of an obstacle one value, and makes the change when none is left. */
  async function mend(o: Obstacle, value: unknown): Promise<number> {
    const change = hindered
    if (!change) return 0
    const ask = { ...change, object: o.object, field: o.field, rule: o.rule, value }
    const { mended } = await given(
      api.POST('/build/spaces/{space}/mend', { params: { path: { space: 'trial' } }, body: ask }),
    )
    await add({ request: requestKey(), change })
    return mended
  }

  /** Nothing more of it is sent. */
  function forget(): void {
    forgotten = true
    keep([])
    now()
  }

  if (waiting.value.length) void send()

  return {
    view,
    waiting: computed(() => waiting.value.length),
    lost,
    now,
    failed,
    obstacles,
    forget,
    load,
    edit,
    rename,
    mend,
    undo: () => add({ request: requestKey(), way: 'undo' }),
    redo: () => add({ request: requestKey(), way: 'redo' }),
  }
}

export type Draft = ReturnType<typeof makeDraft>

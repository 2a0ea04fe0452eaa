import { useToast } from 'primevue/usetoast'
import { computed } from 'vue'
import { titleOf } from '@/api/client'
import type { Obstacle, Op } from '@/api/types'
import { useDrafts } from './drafts'
import { useRemoval } from './removal'

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

/** A document of the draft as a page edits it; there is nothing to save. */
export function useDocument<T>(kind: string, key: () => string) {
  const toast = useToast()
  const draft = useDrafts().of(kind, key())
  const body = computed(() => draft.view.value?.body as T | undefined)
  const removable = useRemoval(kind, key)

  async function mend(o: Obstacle, value: unknown): Promise<void> {
    try {
      const mended = await draft.mend(o, value)
      const summary = `${mended} ${mended === 1 ? 'record was' : 'records were'} changed`
      toast.add({ severity: 'info', summary, life: 5000 })
    } catch (error) {
      toast.add({ severity: 'error', summary: 'Not changed', detail: titleOf(error), life: 8000 })
    }
  }

  return { ...draft, body, removable, mend }
}

export type Rename = (pointer: string, from: string, to: string) => Promise<boolean>
export type Edit = (...patch: Op[]) => Promise<boolean>

import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, triggerRef, watch } from 'vue'
import { seenAs, titleOf } from '@/api/client'
import { latest, stopped, type Latest } from '@/api/latest'
import type {
  Arrangement,
  GroupsView,
  GroupView,
  Heading,
  Look,
  PartView,
  RowsView,
  RowView,
} from '@/api/types'
import type { Asking } from './asking'
import type { Move } from './moves'
import { sameKey } from './same'

/** One line of a table as it is shown: a row, the head of a group, or the rest still to come. */
export type Line =
  | { kind: 'row'; id: string; row: RowView; number: number }
  | { kind: 'group'; id: string; group: GroupView; open: boolean; moved: number }
  | { kind: 'more'; id: string; group?: string }
  | { kind: 'inside'; id: string; row: RowView }
  /** What a table that shares its room keeps back. */
  | { kind: 'rest'; id: string }

/** The rows read so far, of the table or of one group. */
interface Read {
  rows: RowView[]
  next: string
  busy: boolean
}

/** How many rows are read at once where many are read again, so that the place is kept. */
export const atOnce = 5000

const asRead = (page: RowsView): Read => ({ rows: page.rows, next: page.next ?? '', busy: false })

/** What groups are made by. */
const by = ({ group }: Look) => (group ? `${group.path} ${group.span ?? ''}` : '')

export const groupId = (g: GroupView) => JSON.stringify(g.key)

/** A table and how somebody looks at it. An answer that comes after a newer question is thrown away. */
export function useTable(part: () => PartView, ask: Asking) {
  const arrangement = ref<Arrangement>({ look: {} })
  const words = ref('')
  const columns = shallowRef<Heading[]>([])
  const all = shallowRef<Read>({ rows: [], next: '', busy: false })
  const groups = shallowRef<GroupsView | null>(null)
  const opened = shallowRef(new Map<string, Read>())
  const total = ref(0)
  /** Whether the total is that of the whole list, or as far as it was read while it is counted. */
  const counted = ref(true)
  /** The currency that amounts can be converted to, empty when they cannot. */
  const converts = ref('')
  const failed = ref('')
  const busy = ref(false)
  /** The objects whose records it looks at. */
  const reads = shallowRef<string[]>([])
  const question = latest()
  // The rows are there first; how many there are in all comes a moment later.
  const counting = latest()
  let whole: Promise<boolean> = Promise.resolve(true)

  const look = computed<Look>(() => ({ ...arrangement.value.look, text: words.value || undefined }))

  /** How somebody looked when what is shown was read: a question that failed changes nothing. */
  const shown = shallowRef<Look>({})

  function take(page: RowsView): void {
    shown.value = look.value
    columns.value = page.columns
    converts.value = page.converts ?? ''
    reads.value = page.reads ?? []
    total.value = page.rows.length
    counted.value = page.counted
    all.value = asRead(page)
    const isLatest = counting.ask()
    whole = page.counted ? Promise.resolve(true) : count(isLatest)
  }

  async function count(isLatest: Latest): Promise<boolean> {
    try {
      const found = await ask.count({ ...look.value, totals: undefined }, isLatest.signal)
      if (!isLatest()) return false
      total.value = found.total
      counted.value = true
    } catch (error) {
      if (isLatest()) failed.value = titleOf(error)
    }
    return counted.value
  }

  /** How many rows there are in all, null when they could not be counted. */
  async function howMany(): Promise<number | null> {
    return (await whole) ? total.value : null
  }

  watch(
    part,
    (p, before) => {
      const arranged = words.value || Object.keys(arrangement.value.look).length
      const further = all.value.rows.length > p.table!.rows.rows.length && p.table!.rows.next
      // What was read beyond what the page brings is read again, so that the place is kept.
      if (before && p.key === before.key && (arranged || further)) void load(true)
      else take(p.table!.rows)
    },
    { immediate: true },
  )

  // How many rows there were when somebody who comes back left.
  let resumed = 0

  /** Reads as many rows as there were, looking for the same words. */
  function resume(of: { words: string; rows: number }): Promise<boolean> {
    words.value = of.words
    resumed = of.rows
    return load()
  }

  /** Reads the table again and keeps the place: as many rows are read as there were. */
  const again = () => load(true)

  /** Gives up what is being read; what was read before stays. */
  function stop(): void {
    question.ask()
    busy.value = false
    failed.value = stopped
  }

  let reading = Promise.resolve(true)

  /** Gives whether what is shown in the end was read now or later. */
  function load(stay = false): Promise<boolean> {
    const isLatest = question.ask()
    reading = read(stay, isLatest).then((done) => (isLatest() ? done : reading))
    return reading
  }

  async function read(stay: boolean, isLatest: Latest): Promise<boolean> {
    busy.value = true
    failed.value = ''
    try {
      const grouped = !!look.value.group
      // The columns of a table in groups are known before the first group is opened.
      const columnsOnly = { ...look.value, group: undefined, totals: undefined }
      const [page, found] = await Promise.all([
        grouped
          ? ask.rows(columnsOnly, isLatest.signal)
          : pages(look.value, stay ? all.value.rows.length : resumed, isLatest.signal),
        grouped || look.value.totals?.length ? ask.groups(look.value, isLatest.signal) : null,
      ])
      // Groups by something else are other groups, though their keys may be alike.
      const regrouped = by(look.value) !== by(shown.value)
      const there = grouped && found && !regrouped ? found.groups.map(groupId) : []
      const still = there.filter((id) => opened.value.has(id))
      const inGroups = await Promise.all(
        still.map((id) =>
          inGroup(look.value, id, stay ? (opened.value.get(id)?.rows.length ?? 0) : 0, isLatest.signal),
        ),
      )
      if (!isLatest()) return false
      groups.value = found
      if (regrouped) opened.value = new Map()
      if (!grouped || !found) {
        take(page)
        return true
      }
      shown.value = look.value
      // Cells go by their columns, so all of them change at once.
      columns.value = page.columns
      reads.value = page.reads ?? []
      counting.ask()
      total.value = found.total
      counted.value = true
      whole = Promise.resolve(true)
      const read = new Map(still.map((id, i) => [id, asRead(inGroups[i])]))
      // Some may have been closed since, or opened in other columns.
      const open = [...opened.value.keys()].filter((id) => there.includes(id))
      opened.value = new Map(open.flatMap((id) => (read.has(id) ? [[id, read.get(id)!]] : [])))
      for (const id of open) if (!read.has(id)) void begin(id)
      if (!found.groups.length) all.value = { rows: [], next: '', busy: false }
      return true
    } catch (error) {
      if (isLatest()) failed.value = titleOf(error)
      return false
    } finally {
      if (isLatest()) busy.value = false
    }
  }

  /** The first page, and more of them until there are as many rows as wanted. */
  async function pages(of: Look, wanted: number, signal?: AbortSignal): Promise<RowsView> {
    const size = () => Math.min(atOnce, wanted - page.rows.length)
    const page = await ask.rows(wanted > 50 ? { ...of, size: Math.min(atOnce, wanted) } : of, signal)
    while (page.next && page.rows.length < wanted) {
      const more = await ask.rows({ ...of, after: page.next, size: size() }, signal)
      page.rows.push(...more.rows)
      page.next = more.next
    }
    page.counted ||= !page.next
    return page
  }

  /** What was saved shows, though the table could not be read again since. */
  function saved(rows: { id: number; values: Record<string, unknown> }[]): void {
    const written = (read: Read): Read => ({ ...read, rows: read.rows.map((row) => rewritten(row)) })
    const rewritten = (row: RowView): RowView => {
      const values = rows.find((r) => r.id === row.id)?.values
      if (!values) return row
      const cells = columns.value.map((c, i) => (c.path in values ? values[c.path] : row.cells[i]))
      return { ...row, cells }
    }
    all.value = written(all.value)
    opened.value = new Map([...opened.value].map(([id, read]) => [id, written(read)]))
  }

  const inGroup = (of: Look, id: string, wanted: number, signal?: AbortSignal) =>
    pages({ ...of, totals: undefined, within: JSON.parse(id) as unknown }, wanted, signal)

  /** Opens a group in the columns that the others are shown in, whatever was asked for since. */
  async function openGroup(id: string): Promise<void> {
    const of = shown.value
    const page = await inGroup(of, id, 0)
    if (shown.value !== of) {
      if (groups.value?.groups.some((g) => groupId(g) === id)) await openGroup(id)
      return
    }
    columns.value = page.columns
    opened.value.set(id, asRead(page))
    triggerRef(opened)
  }

  async function toggle(group: GroupView): Promise<void> {
    const id = groupId(group)
    if (shown.value.group?.fixed) return
    if (opened.value.delete(id)) {
      triggerRef(opened)
      return
    }
    try {
      await openGroup(id)
    } catch (error) {
      failed.value = titleOf(error)
    }
  }

  // Groups that stand open and are being read for the first time.
  const begun = new Set<string>()

  async function begin(group: string): Promise<void> {
    if (begun.has(group)) return
    begun.add(group)
    try {
      await openGroup(group)
    } catch (error) {
      failed.value = titleOf(error)
    } finally {
      begun.delete(group)
    }
  }

  /** Reads on, in the whole list or in a group. */
  async function more(group?: string): Promise<void> {
    const of = group === undefined ? all.value : opened.value.get(group)
    if (group !== undefined && !of) return begin(group)
    if (!of?.next || of.busy) return
    of.busy = true
    const seen = shown.value
    try {
      const within = group === undefined ? {} : { within: JSON.parse(group) as unknown }
      const page = await ask.rows({ ...seen, ...within, totals: undefined, after: of.next })
      if (shown.value !== seen) {
        of.busy = false // what overtook it may have failed
        return
      }
      const now = { rows: [...of.rows, ...page.rows], next: page.next ?? '', busy: false }
      if (group === undefined) all.value = now
      else {
        opened.value.set(group, now)
        triggerRef(opened)
      }
    } catch (error) {
      failed.value = titleOf(error)
      of.busy = false
    }
  }

  /** Rows that are opened to what lies in them; they stay so when the table is read again. */
  const unfolded = ref(new Set<number>())
  function unfold(id: number): void {
    if (!unfolded.value.delete(id)) unfolded.value.add(id)
  }

  /** Rows whose change is not saved yet and puts them into another group. */
  const moved = shallowRef(new Map<number, Move>())

  /** The groups as they were counted, and those that only moved rows are in. */
  const shownGroups = computed(() => {
    const out = [...(groups.value?.groups ?? [])]
    for (const { to } of moved.value.values())
      if (!out.some((g) => sameKey(g.key, to))) out.push({ key: to, count: 0, totals: [] })
    return out
  })

  function arrived(group: GroupView): RowView[] {
    return [...moved.value.values()].filter((m) => sameKey(m.to, group.key)).map(asShown)
  }

  /** A row on its way, with its cells by the columns there are now. */
  function asShown({ row, paths }: Move): RowView {
    const cells = columns.value.map((c) => row.cells[paths.indexOf(c.path)])
    return { ...row, cells }
  }

  const lines = computed<Line[]>(() => {
    const out: Line[] = []
    const put = (read: Read, group?: string) => {
      read.rows.forEach((row, i) => {
        out.push({ kind: 'row', id: `${group ?? ''}${row.id}`, row, number: i + 1 })
        if (unfolded.value.has(row.id)) out.push({ kind: 'inside', id: `inside${row.id}`, row })
      })
      if (read.next) out.push({ kind: 'more', id: `more${group ?? ''}`, group })
    }
    if (!shown.value.group) {
      put(all.value)
      return out
    }
    const fixed = shown.value.group.fixed ?? false
    for (const group of shownGroups.value) {
      const id = groupId(group)
      const arriving = arrived(group)
      const gone = [...moved.value.values()].filter((m) => sameKey(m.from, group.key)).length
      const read =
        opened.value.get(id) ??
        (group.count && !arriving.length ? undefined : { rows: [], next: '', busy: false })
      out.push({
        kind: 'group',
        id: `group${id}`,
        group,
        open: !!read || fixed,
        moved: arriving.length - gone,
      })
      // What stands open is read as it comes into sight.
      if (!read && fixed) out.push({ kind: 'more', id: `more${id}`, group: id })
      if (read) put({ ...read, rows: [...arriving, ...read.rows.filter((r) => !moved.value.has(r.id))] }, id)
    }
    return out
  })

  // Headings of fields that were seen once stay known, for sentences about them.
  const known = shallowRef(new Map<string, Heading>())
  function know(headings: Heading[]): void {
    headings.forEach((h) => known.value.set(h.path, h))
    triggerRef(known)
  }
  watch(columns, know, { immediate: true })
  const came = () => part().table!.rows.columns
  const headingOf = (path: string) => columns.value.find((c) => c.path === path) ?? known.value.get(path)

  /** Rows of the first page, of the table or of the first group opened. */
  const first = computed<RowView[]>((before) => {
    const read = shown.value.group ? [...opened.value.values()][0] : all.value
    const rows = read?.rows.slice(0, 50) ?? []
    // Nothing hangs on rows that are read later.
    return before?.length === rows.length && before.every((r, i) => r === rows[i]) ? before : rows
  })
  const rows = computed(() => lines.value.flatMap((l) => (l.kind === 'row' ? [l.row] : [])))

  let leaving: ReturnType<typeof setTimeout> | undefined

  function leave(): void {
    clearTimeout(leaving)
    leaving = setTimeout(() => {
      if (!seenAs()) void ask.keep('', arrangement.value).catch(() => undefined)
    }, 700)
  }

  /** It is kept under a name: that is what it comes back as. */
  const named = () => clearTimeout(leaving)

  /** The person arranges the table another way; it is left like that for the next time. */
  function arrange(change: Partial<Arrangement>): void {
    arrangement.value = { ...arrangement.value, ...change }
    leave()
  }

  function lookAt(change: Partial<Look>): Promise<boolean> {
    resumed = 0
    arrange({ look: { ...arrangement.value.look, ...change } })
    return load()
  }

  /** An arrangement kept before. */
  function apply(body: Arrangement): Promise<boolean> {
    named()
    arrangement.value = { ...body, look: body.look ?? {} }
    return load()
  }

  const search = useDebounceFn(() => void load(), 200)

  return {
    arrangement,
    look,
    shown,
    words,
    columns,
    rows,
    first,
    lines,
    groups,
    total,
    counted,
    howMany,
    converts,
    reads,
    failed,
    busy,
    stop,
    moved,
    isOpen: (group: GroupView) => opened.value.has(groupId(group)),
    unfolded,
    unfold,
    know,
    came,
    headingOf,
    load,
    again,
    resume,
    saved,
    more,
    toggle,
    arrange,
    lookAt,
    apply,
    named,
    search,
  }
}

export type Table = ReturnType<typeof useTable>

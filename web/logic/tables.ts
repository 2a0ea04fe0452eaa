import { shallowRef } from 'vue'
import type { Arrangement, GroupsView, Heading, Look, PartView, RowsView, RowView } from '@/api/types'
import { arranging } from '@/surface/table/arranging'
import type { Asking } from '@/surface/table/asking'
import { useLayout } from '@/surface/table/layout'
import { useTable } from '@/surface/table/table'
import type { Buttons } from '@/surface/table/buttons'
import { questions, settle } from './questions'

// A table against a server of forty records that answers when it is told to, in any order.

const letters = ['a', 'b', 'c', 'd', 'e']
const headings: Heading[] = letters.map((path) => ({ path, label: path, type: 'text', operators: [] }))
const records = Array.from({ length: 40 }, (_, id) => ({
  id,
  values: letters.map((_, n) => String((id * [1, 7, 13, 3, 11][n]) % [40, 10, 8, 3, 5][n])),
}))
const page = 6

const valueOf = (r: (typeof records)[number], path: string) => r.values[letters.indexOf(path)]

function matching(look: Look) {
  const words = look.text ?? ''
  let found = records.filter((r) => r.values.some((v) => v.includes(words)))
  if (look.within !== undefined) found = found.filter((r) => valueOf(r, look.group!.path) === look.within)
  return found.sort((x, y) => {
    for (const o of look.order ?? []) {
      const by = valueOf(x, o.path).localeCompare(valueOf(y, o.path))
      if (by) return o.desc ? -by : by
    }
    return x.id - y.id
  })
}

function rowsOf(look: Look): RowsView {
  const columns = (look.columns ?? headings.slice(0, 3)).map((c) => headings.find((h) => h.path === c.path)!)
  const from = Number(look.after || 0)
  const all = matching(look)
  const found = all.slice(from, from + (look.size ?? page))
  const next = from + found.length < all.length ? String(from + found.length) : ''
  const rows: RowView[] = found.map((r) => ({
    id: r.id,
    label: '',
    cells: columns.map((c) => valueOf(r, c.path)),
  }))
  return { columns, rows, next, total: rows.length, counted: !next && !from }
}

function groupsOf(look: Look): GroupsView {
  const found = matching(look)
  const keys = look.group ? [...new Set(found.map((r) => valueOf(r, look.group!.path)))].sort() : []
  return {
    total: found.length,
    totals: [],
    groups: keys.map((key) => ({
      key,
      totals: [],
      count: found.filter((r) => valueOf(r, look.group!.path) === key).length,
    })),
  }
}

export interface Action {
  do: string
  path: string
  n: number
  on: boolean
}

export interface State {
  arrangement: Arrangement
  words: string
  columns: string[]
  rows: { id: number; cells: unknown[] }[]
  groups: string[]
  total: number
  counted: boolean
  failed: boolean
  busy: boolean
  open: number
}

/** What a table shows after each of some actions, answers to its questions among them. */
export async function session(actions: Action[]): Promise<State[]> {
  const { open, asked, answer } = questions()
  const ask = {
    rows: (look: Look) => asked(() => rowsOf(look)),
    groups: (look: Look) => asked(() => groupsOf(look)),
    count: (look: Look) => asked(() => ({ total: matching(look).length })),
    keep: () => Promise.resolve(),
  } as unknown as Asking
  const part = {
    key: 'part',
    kind: 'table',
    table: { object: 'o', select: 'none', chosen: [], rows: rowsOf({}) },
  } as PartView
  const table = useTable(() => part, ask)
  const arrange = arranging(table)
  const out: State[] = []
  for (const a of actions) {
    switch (a.do) {
      case 'orderBy':
        arrange.orderBy(a.path, a.on)
        break
      case 'moveBy':
        void arrange.moveBy(a.path, a.n)
        break
      case 'hide':
        void arrange.hide(a.path)
        break
      case 'add':
        if (!arrange.shown.value.some((c) => c.path === a.path))
          void arrange.add({ path: a.path, label: a.path })
        break
      case 'width':
        arrange.width(a.path, a.n)
        break
      case 'fit':
        arrange.fit(a.path)
        break
      case 'pin':
        arrange.pin(a.n)
        break
      case 'group':
        if (a.on) arrange.group(headings.find((h) => h.path === a.path)!)
        else void table.lookAt({ group: undefined })
        break
      case 'toggle':
        if (table.groups.value?.groups[a.n]) void table.toggle(table.groups.value.groups[a.n])
        break
      case 'words':
        table.words.value = a.path
        void table.load()
        break
      case 'more':
        void table.more()
        break
      case 'again':
        void table.again()
        break
      case 'answer':
        answer(a.n, a.on ? 'give' : 'lose')
        break
    }
    await settle()
    out.push({
      arrangement: table.arrangement.value,
      words: table.words.value,
      columns: table.columns.value.map((c) => c.path),
      rows: table.lines.value.flatMap((l) =>
        l.kind === 'row' ? [{ id: l.row.id, cells: l.row.cells }] : [],
      ),
      groups: table.lines.value.flatMap((l) => (l.kind === 'group' ? [String(l.group.key)] : [])),
      total: table.total.value,
      counted: table.counted.value,
      failed: !!table.failed.value,
      busy: table.busy.value,
      open: open.length,
    })
  }
  return out
}

export interface Room {
  width: number
  columns: string[]
  types: string[]
  widths: Record<string, number>
  pinned: number
  numbers: boolean
  select: string
  buttons: string[]
  scrolled: number
}

/** How a table lies in a room of some width, scrolled sideways. */
export async function laidOut(r: Room) {
  const box = document.createElement('div')
  box.style.cssText = `width:${r.width}px;overflow:auto`
  const inside = document.createElement('div')
  box.append(inside)
  document.body.append(box)
  const columns = r.columns.map((path, i) => ({ path, label: path, type: r.types[i], operators: [] }))
  const row = {
    id: 1,
    label: '',
    cells: r.columns.map((_, i) => (r.types[i] === 'text' ? 'x'.repeat(i) : null)),
  }
  const table = {
    columns: shallowRef(columns),
    first: shallowRef([row]),
    arrangement: shallowRef({ widths: r.widths, pinned: r.pinned, numbers: r.numbers, look: {} }),
  } as unknown as ReturnType<typeof useTable>
  const buttons = { each: shallowRef(r.buttons.map((label) => ({ label }))) } as unknown as Buttons
  const part = { key: 'p', kind: 'table', table: { select: r.select } } as unknown as PartView
  const layout = useLayout(shallowRef(box), () => part, table, buttons)
  const frame = () => new Promise((done) => requestAnimationFrame(done))
  await frame()
  await frame()
  inside.style.cssText = `width:${layout.whole.value}px;height:1px`
  box.scrollLeft = r.scrolled
  await frame()
  await frame()
  const out = {
    widths: layout.widths.value,
    acting: layout.acting.value,
    whole: layout.whole.value,
    tracks: layout.tracks.value.split(/ (?![^(]*\))/).length,
    before: layout.cellsBefore.value,
    pinned: columns.map((_, i) => layout.pinnedAt(i) ?? ''),
    drawn: layout.drawn.value.map((c) => c.at),
    scrolled: box.scrollLeft,
    room: box.clientWidth,
  }
  box.remove()
  return out
}

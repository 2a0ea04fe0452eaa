import { effectScope } from 'vue'
import type { Heading, Look, PartView, RowsView, RowSaving, RowsSaved } from '@/api/types'
import type { Asking } from '@/surface/table/asking'
import { useEdits } from '@/surface/table/edits'
import { makeEdits } from '@/surface/table/keptedits'
import { useMoves } from '@/surface/table/moves'
import { useTable } from '@/surface/table/table'
import { questions, settle, type Fate } from './questions'

// The cells of a table that are changed, against a server of six records that others change too.

type Values = Record<string, string>

export interface CellAction {
  do: string
  /** The cells that are changed at once. */
  cells: { id: number; path: string; value: string }[]
  n: number
  fate: Fate
  mine: boolean
}

const paths = ['a', 'b', 'c']
const headings: Heading[] = paths.map((path) => ({ path, label: path, type: 'text', operators: [] }))

function makeServer() {
  const records = new Map<number, Values>()
  for (let id = 1; id <= 6; id++) records.set(id, { a: `a${id % 2}`, b: `b${id}`, c: `c${id}` })

  function read(look: Look): RowsView {
    const columns = (look.columns ?? headings).map((c) => headings.find((h) => h.path === c.path)!)
    const rows = [...records]
      .filter(([, v]) => look.within === undefined || v[look.group!.path] === look.within)
      .map(([id, v]) => ({ id, label: '', cells: columns.map((c) => v[c.path]) }))
    return { columns, rows, next: '', total: rows.length, counted: true }
  }

  function groups(look: Look) {
    const keys = [...new Set([...records.values()].map((v) => v[look.group!.path]))].sort()
    const count = (key: string) => [...records.values()].filter((v) => v[look.group!.path] === key).length
    return { total: 6, totals: [], groups: keys.map((key) => ({ key, totals: [], count: count(key) })) }
  }

  /** All rows or none; a value that begins with "bad" cannot be saved. */
  function save(rows: RowSaving[]): RowsSaved {
    const out = rows.map(({ id, values, before }) => {
      const now = records.get(id)!
      const keys = Object.keys(values)
      return {
        id,
        problems: keys
          .filter((k) => String(values[k]).startsWith('bad'))
          .map((k) => ({ pointer: '/' + k, text: 'is bad' })),
        clashes: keys
          .filter((k) => now[k] !== before[k] && now[k] !== values[k])
          .map((k) => ({ field: k, label: k, theirs: now[k] })),
      }
    })
    const saved = out.every((r) => !r.problems.length && !r.clashes.length)
    if (saved) for (const r of rows) Object.assign(records.get(r.id)!, r.values)
    return { saved, put_back: false, rows: saved ? [] : out }
  }
  return { records, read, groups, save }
}

/** What a table shows after each of some actions, what is not saved, and what is stored. */
export async function cells(actions: CellAction[]) {
  const server = makeServer()
  const { open, asked, answer } = questions()
  const ask = {
    rows: (look: Look) => asked(() => server.read(look)),
    groups: (look: Look) => asked(() => server.groups(look)),
    save: (rows: RowSaving[]) => asked(() => server.save(rows)),
    keep: () => Promise.resolve(),
  } as unknown as Asking
  const part = {
    key: 'part',
    kind: 'table',
    table: { object: 'o', select: 'none', chosen: [], rows: server.read({}) },
  } as PartView
  const scope = effectScope()
  const { table, edits } = scope.run(() => {
    const table = useTable(() => part, ask)
    const edits = useEdits(table, ask, makeEdits())
    useMoves(table, edits)
    return { table, edits }
  })!
  const rowOf = (id: number) => table.rows.value.find((r) => r.id === id)
  const out = []
  for (const a of actions) {
    switch (a.do) {
      case 'set': {
        const wanted = a.cells.flatMap(({ id, path, value }) => {
          const row = rowOf(id)
          const index = table.columns.value.findIndex((c) => c.path === path)
          if (!row || index < 0) return []
          return [
            {
              row,
              heading: headings[paths.indexOf(path)],
              value: value === 'back' ? row.cells[index] : value,
            },
          ]
        })
        edits.set(wanted)
        break
      }
      case 'undo':
        edits.undo()
        break
      case 'save':
        void edits.save()
        break
      case 'theirs':
        for (const c of a.cells) server.records.get(c.id)![c.path] = c.value
        break
      case 'settle':
        for (const { id, clashes } of [...edits.outcomes.value.values()])
          for (const c of (clashes ?? []).slice(0, a.n)) edits.settle(id, c.field, c.theirs, a.mine)
        break
      case 'again':
        void table.again()
        break
      case 'columns':
        void table.lookAt({ columns: a.n ? [...a.cells.map((c) => ({ path: c.path }))] : undefined })
        break
      case 'group':
        void table.lookAt({ group: a.n ? { path: a.cells[0].path } : undefined })
        break
      case 'answer':
        answer(a.n, a.fate)
        break
    }
    await settle()
    let group: unknown = ''
    out.push({
      columns: table.columns.value.map((c) => c.path),
      grouped: table.shown.value.group?.path ?? '',
      rows: table.lines.value.flatMap((l) => {
        if (l.kind === 'group') group = l.group.key
        if (l.kind !== 'row') return []
        const shown = table.columns.value.map((c, i) => edits.valueOf(l.row, c, i))
        return [{ id: l.row.id, group, stored: l.row.cells, shown }]
      }),
      groups: table.lines.value.flatMap((l) => (l.kind === 'group' && l.open ? [l.group.key] : [])),
      edits: [...edits.rows.value].map(([id, e]) => ({ id, values: { ...e.values } })),
      told: [...edits.outcomes.value.values()].map((o) => ({
        id: o.id,
        problems: (o.problems ?? []).map((p) => p.pointer),
        clashes: (o.clashes ?? []).map((c) => ({ field: c.field, theirs: c.theirs })),
      })),
      server: Object.fromEntries([...server.records].map(([id, v]) => [id, { ...v }])),
      saving: edits.saving.value,
      failed: edits.failed.value,
      open: open.length,
    })
  }
  scope.stop()
  return out
}

import { patience } from '@/api/reach'
import { makeDraft, type Kept, type Refusal, type Task } from '@/build/draft'
import { drop, moved, put, swap } from '@/build/document'
import type { Op } from '@/api/types'

// A document that is edited over a bad connection; the server is a real one.

interface Body {
  label: string
  rows: { key: string; label: string }[]
}

export interface DraftAction {
  do: string
  n: number
  text: string
}

const sleep = (time: number) => new Promise((done) => setTimeout(done, time))

function ops(a: DraftAction, body: Body): Op[] {
  const n = body.rows.length ? a.n % body.rows.length : 0
  switch (a.do) {
    case 'label':
      return [swap('/label', a.text)]
    case 'add':
      return [put('/rows/-', { key: a.text, label: a.text })]
    case 'row':
      return body.rows.length ? [swap(`/rows/${n}/label`, a.text)] : []
    case 'drop':
      return body.rows.length ? [drop(`/rows/${n}`)] : []
    case 'move':
      return body.rows.length > 1 ? [moved('/rows', n, (n + 1) % body.rows.length)] : []
  }
  return []
}

/** What became of a document and of what was done to it. */
export async function drafts(script: { name: string; actions: DraftAction[] }) {
  Object.assign(patience, { first: 4, most: 16 })
  const made: string[] = []
  const told: Refusal[] = []
  let stored: Task[] = []
  const kept: Kept = {
    read: () => stored,
    write: (tasks) => {
      stored = JSON.parse(JSON.stringify(tasks)) as Task[]
      for (const t of tasks) if (!made.includes(t.request)) made.push(t.request)
    },
  }
  // A page that was loaded anew asks nothing more, and hears nothing.
  let page = 0
  const real = window.fetch
  window.fetch = (asked) =>
    asked instanceof Request && !asked.url.includes(`/${script.name}/${page}`)
      ? new Promise<Response>(() => undefined)
      : real(asked)
  const open = () => {
    const mine = ++page
    const own: Kept = { read: kept.read, write: (tasks) => mine === page && kept.write(tasks) }
    const tell = (r: Refusal) => mine === page && told.push(r)
    return makeDraft({ kind: script.name, key: String(page) }, own, tell, () => undefined)
  }
  let draft = open()
  const read = async () => {
    do await draft.load()
    while (!draft.view.value)
  }
  await read()
  const wrong: string[] = []
  for (const a of script.actions) {
    if (a.do === 'pause') await sleep(a.n)
    else if (a.do === 'undo') void draft.undo()
    else if (a.do === 'reload') {
      draft = open()
      await read()
    } else if (draft.view.value) {
      const wanted = ops(a, draft.view.value.body as Body)
      if (!wanted.length) continue
      void draft.edit(...wanted)
      const now = draft.view.value.body as Body
      if (a.do === 'label' && now.label !== a.text) wrong.push(`${a.text} does not show`)
      if (a.do === 'add' && now.rows.at(-1)?.key !== a.text) wrong.push(`${a.text} does not show`)
    }
  }
  while (draft.waiting.value) await sleep(2)
  const shown = draft.view.value!.body as Body
  window.fetch = real
  return { shown, made, told: told.map((r) => r.summary), wrong }
}

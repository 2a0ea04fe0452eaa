import type { Component } from 'vue'
import type { Act, ActKind } from '@/api/types'
import { conditionLines } from '../words'
import AddAct from './AddAct.vue'
import type { Sentence } from '../asks'
import ChangeAct from './ChangeAct.vue'
import DownloadAct from './DownloadAct.vue'
import GatherAct from './GatherAct.vue'
import NotifyAct from './NotifyAct.vue'
import OpenAct from './OpenAct.vue'
import RunAct from './RunAct.vue'
import RemoveAct from './RemoveAct.vue'
import { known, type Place, quoted, set, theirs } from './said'
import { typeAt } from './typeat'

type Settings<K> = K extends keyof Act ? NonNullable<Act[K]> : never

/** An act on the builder's side: what a new one says, what it is edited with, and how it reads. */
interface ActEntry<K extends ActKind> {
  fresh: () => Partial<Act>
  /** What it asks for, where that fits a sentence. */
  asks?: Sentence<Settings<K>>
  /** What edits it where it asks for more; the editor of searches is that of pages, too. */
  editor?: Component
  /** What it does with records, as the sheet says. */
  touches?: 'reads' | 'writes'
  /** What comes of it is known afterwards, by a key. */
  gives?: boolean
  /** What it does, in words, and in detail, one line each. */
  says: (act: Act, at: Place) => string
  lines?: (act: Act, at: Place) => string[]
}

/** Every act there is; what each is called comes from the server. */
export const acts: { [K in ActKind]: ActEntry<K> } = {
  search: {
    fresh: () => ({ search: { object: '', where: { all: [] } } }),
    touches: 'reads',
    gives: true,
    says: ({ search }, { build }) =>
      `Search ${build.object(search?.object)?.plural.toLowerCase() ?? search?.object}`,
    lines: ({ search }, { build, names }) => {
      const where = search ? conditionLines(build, names, search.object, search.where) : []
      return where.length ? where : ['all of them']
    },
  },
  add: {
    fresh: () => ({ add: { object: '', values: [] } }),
    editor: AddAct,
    touches: 'writes',
    gives: true,
    says: ({ add }, at) => {
      const one = at.build.one(add?.object)
      return add?.for_each ? `Add ${one} for each of ${known(at, add.for_each)}` : `Add ${one}`
    },
    lines: ({ add }, at) => set(at, add?.object, add?.values),
  },
  change: {
    fresh: () => ({ change: { values: [] } }),
    editor: ChangeAct,
    touches: 'writes',
    gives: true,
    says: ({ change }, at) => `Change ${theirs(at, change?.their)}${known(at, change?.of)}`,
    lines: ({ change }, at) =>
      set(at, change?.their?.object ?? typeAt(at.build, at.names, change?.of ?? '')?.object, change?.values),
  },
  remove: {
    fresh: () => ({ remove: {} }),
    editor: RemoveAct,
    touches: 'writes',
    gives: true,
    says: ({ remove }, at) => `Remove ${theirs(at, remove?.their)}${known(at, remove?.of)}`,
    lines: ({ remove }, at) =>
      (remove?.referring ?? []).map(
        (r) =>
          `${at.build.object(r.object)?.plural ?? r.object} ${r.then === 'remove' ? 'with them' : 'refer to nothing'}`,
      ),
  },
  work_out: {
    fresh: () => ({ work_out: { value: '' } }),
    asks: [
      'It is',
      {
        as: 'known',
        member: 'value',
        label: 'What is worked out',
        empty: 'an expression, such as size(found) > 3',
        wide: true,
      },
    ],
    gives: true,
    says: (_, { title }) => `Work out ${title}`,
    lines: ({ work_out }, at) => [known(at, work_out?.value)],
  },
  gather: {
    fresh: () => ({ gather: { columns: [], from: [] } }),
    editor: GatherAct,
    gives: true,
    says: (_, { title }) => (/^gather /i.test(title) ? title : `Gather ${title}`),
    lines: ({ gather }, at) => [
      ...(gather?.from ?? []).map((f) => 'rows of ' + known(at, f.list)),
      (gather?.columns ?? []).map((c) => c.label).join(', '),
    ],
  },
  run: {
    fresh: () => ({ run: { walkthrough: '' } }),
    editor: RunAct,
    gives: true,
    says: ({ run }, { build }) =>
      `Run ${quoted(build.contents?.documents.find((d) => d.kind === 'walkthrough' && d.key === run?.walkthrough)?.label ?? run?.walkthrough)}`,
    lines: ({ run }, at) => (run?.hand ?? []).map((h) => `${h.to} is ${known(at, h.value)}`),
  },
  notify: {
    fresh: () => ({ notify: { text: '' } }),
    editor: NotifyAct,
    says: ({ notify }, at) => {
      const roles = (notify?.roles ?? []).map(
        (r) => at.build.contents?.documents.find((d) => d.kind === 'role' && d.key === r)?.label ?? r,
      )
      return `Tell ${[...roles, ...(notify?.people ? [known(at, notify.people)] : [])].join(', ') || '…'}`
    },
    lines: ({ notify }) => [quoted(notify?.text)],
  },
  say: {
    fresh: () => ({ say: { text: 'Done.' } }),
    asks: [
      { as: 'text', member: 'text', label: 'What it says' },
      {
        as: 'choice',
        member: 'as',
        label: 'Kind of message',
        options: ['done', 'care', 'failed'],
        empty: 'plain news',
        optional: true,
      },
    ],
    says: () => 'Say',
    lines: ({ say }) => [quoted(say?.text)],
  },
  confirm: {
    fresh: () => ({ confirm: { question: 'Go on?' } }),
    asks: [
      { as: 'text', member: 'question', label: 'What it asks' },
      'and goes on with the button',
      {
        as: 'text',
        member: 'yes',
        label: 'What the button says that goes on',
        empty: 'Go on',
        optional: true,
      },
    ],
    says: () => 'Ask whether to go on',
    lines: ({ confirm }) => [quoted(confirm?.question)],
  },
  set: {
    fresh: () => ({ set: { part: '' } }),
    asks: [
      { as: 'part', member: 'part', inputs: true, label: 'The input that is set', empty: 'which input' },
      'to',
      { as: 'known', member: 'value', label: 'What it is set to', empty: 'nothing', optional: true },
    ],
    says: ({ set }, at) => `Set ${set?.part ?? '…'} to ${known(at, set?.value)}`,
  },
  read_again: {
    fresh: () => ({ read_again: {} }),
    asks: [{ as: 'part', member: 'part', label: 'What is read again', all: 'all there is', optional: true }],
    says: ({ read_again }) => `Read ${read_again?.part ?? 'all there is'} again`,
  },
  hold: {
    fresh: () => ({ hold: { text: 'Please wait …' } }),
    asks: [{ as: 'text', member: 'text', label: 'What is shown meanwhile' }],
    says: ({ hold }) => `Show ${quoted(hold?.text)} meanwhile`,
  },
  open: {
    fresh: () => ({ open: {} }),
    editor: OpenAct,
    says: ({ open }, at) =>
      open?.page
        ? `Open ${quoted(at.build.contents?.documents.find((d) => d.kind === 'page' && d.key === open.page)?.label ?? open.page)}`
        : `Open ${open?.link ?? known(at, open?.record)}`,
    lines: ({ open }, at) => (open?.hand ?? []).map((h) => `${h.to} is ${known(at, h.value)}`),
  },
  copy_link: { fresh: () => ({}), says: () => 'Copy a link' },
  download: {
    fresh: () => ({ download: { format: 'csv' } }),
    editor: DownloadAct,
    says: ({ download }, at) =>
      download?.file === undefined
        ? `Download the rows${download?.part ? ' of ' + download.part : ''}`
        : `Download ${known(at, download.file)}`,
  },
}

/** A step is an act, or waits for a person, or says where it goes on. */
export function isAct(kind: string): kind is ActKind {
  return kind in acts
}

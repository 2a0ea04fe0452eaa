import type { Act, ActKind, Name, Setting, Step } from '@/api/types'
import { withArticle } from '../article'
import type { useBuild } from '../build'
import { conditionLines, knownWords, operandWords } from '../words'
import { typeAt } from './typeat'

/** What the words of an act are made with. */
interface Place {
  build: ReturnType<typeof useBuild>
  names: Name[]
  /** What the step is called. */
  title: string
}

/** An act in words: what it does, and in detail, one line each. */
interface ActWords {
  says: (act: Act, at: Place) => string
  lines?: (act: Act, at: Place) => string[]
}

function set(at: Place, object: string | undefined, settings: Setting[] | undefined): string[] {
  return (settings ?? []).map((s) => {
    const f = object ? at.build.fieldAt(object, s.field) : undefined
    return `${f?.label ?? s.field}: ${operandWords(at.build, at.names, s.value, f?.choices)}`
  })
}

const known = (at: Place, expression: string | undefined) => knownWords(at.build, at.names, expression || '…')

const quoted = (text: string | undefined) => `“${text ?? ''}”`

const actWords: Record<ActKind, ActWords> = {
  search: {
    says: ({ search }, { build }) =>
      `Search ${build.object(search?.object)?.plural.toLowerCase() ?? search?.object}`,
    lines: ({ search }, { build, names }) => {
      const where = search ? conditionLines(build, names, search.object, search.where) : []
      return where.length ? where : ['all of them']
    },
  },
  add: {
    says: ({ add }, at) => {
      const one = withArticle(at.build.object(add?.object)?.label ?? add?.object ?? '')
      return add?.for_each ? `Add ${one} for each of ${known(at, add.for_each)}` : `Add ${one}`
    },
    lines: ({ add }, at) => set(at, add?.object, add?.values),
  },
  change: {
    says: ({ change }, at) => `Change ${known(at, change?.of)}`,
    lines: ({ change }, at) => set(at, typeAt(at.build, at.names, change?.of ?? '')?.object, change?.values),
  },
  remove: { says: ({ remove }, at) => `Remove ${known(at, remove?.of)}` },
  work_out: {
    says: (_, { title }) => `Work out ${title}`,
    lines: ({ work_out }, at) => [known(at, work_out?.value)],
  },
  run: { says: ({ run }) => `Open ${quoted(run?.walkthrough)}` },
  say: { says: () => 'Say', lines: ({ say }) => [quoted(say?.text)] },
  confirm: { says: () => 'Ask whether to go on', lines: ({ confirm }) => [quoted(confirm?.question)] },
  open: { says: ({ open }, at) => `Open ${known(at, open?.record)}` },
  set: { says: ({ set }, at) => `Set ${set?.part ?? '…'} to ${known(at, set?.value)}` },
  read_again: { says: ({ read_again }) => `Read ${read_again?.part ?? 'all there is'} again` },
  hold: { says: ({ hold }) => `Show ${quoted(hold?.text)} meanwhile` },
  copy_link: { says: () => 'Copy a link' },
  download: { says: () => 'Download the rows' },
}

const words = (step: Step): ActWords | undefined => actWords[step.kind as ActKind]

/** What a step does, as the Work lane says it. */
export function workWords(build: Place['build'], names: Name[], step: Step): string {
  const title = step.title || step.key
  if (step.branch) return step.title || 'Branch'
  return words(step)?.says(step, { build, names, title }) ?? ''
}

/** What a step does in detail, one line each. */
export function workLines(build: Place['build'], names: Name[], step: Step): string[] {
  return words(step)?.lines?.(step, { build, names, title: step.title || step.key }) ?? []
}

import { api, given } from '@/api/client'
import type { Finding } from '@/api/types'
import type { useBuild } from '../build'

const places: [RegExp, string][] = [
  [/\/candidates/, 'candidate rule'],
  [/^\/fields\/\d+\/object$/, 'refers to it'],
  [/^\/objects\/[^/]+$/, 'rights'],
  [/\/rules\//, 'record rule'],
  [/\/label_field/, 'stands for the record'],
  [/\/expression$/, 'expression'],
  [/\/rows/, 'row rule'],
  [/\/fields\//, 'rights on fields'],
  [/\/where/, 'conditions'],
  [/\/order/, 'order'],
  [/\/columns\/\d+\/path|\/keyword/, 'table'],
  [/\/values/, 'what is set'],
  [/\/message|\/text/, 'text'],
]

/** What uses a field, as a builder would say it, each with its address. */
export function usesOf(
  build: ReturnType<typeof useBuild>,
  uses: Finding[],
): { label: string; words: string; address: string }[] {
  const out = uses.map((u) => {
    const [kind, key] = u.document.split('/')
    const document = build.contents?.documents.find((d) => d.kind === kind && d.key === key)
    const what = places.find(([at]) => at.test(u.pointer))?.[1] ?? ''
    return {
      label: document?.label ?? key,
      words: [u.step && `step ${u.step}`, what].filter(Boolean).join(', '),
      address: `/build/${kind}/${key}`,
    }
  })
  return out.filter((u, i) => out.findIndex((o) => o.address === u.address && o.words === u.words) === i)
}

/** What would break without a field. */
export const usesOfField = async (object: string, field: string): Promise<Finding[]> =>
  (await given(api.GET('/build/fields/{object}/{field}/uses', { params: { path: { object, field } } }))).uses

/** What would break without a value of a choice. */
export async function usesOfChoice(object: string, field: string, choice: string): Promise<Finding[]> {
  const params = { path: { object, field, choice } }
  return (await given(api.GET('/build/fields/{object}/{field}/choices/{choice}/uses', { params }))).uses
}

/** What would break without a document, or what is at a pointer into it. */
export async function usesOfDocument(kind: string, key: string, pointer?: string): Promise<Finding[]> {
  const params = { path: { kind, key }, query: pointer ? { pointer } : {} }
  return (await given(api.GET('/build/documents/{kind}/{key}/uses', { params }))).uses
}

import { useStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import type { Contents, Home } from '@/api/types'
import { documentKinds, documents } from '@/build/documents'

/** Somewhere to go: an address, or a walkthrough that is begun. */
export interface Place {
  label: string
  /** What sort of thing it is. */
  kind: string
  to?: string
  begins?: string
}

/** What is in Use for somebody. */
export const usePlaces = (home: Home | null): Place[] =>
  home
    ? [
        { label: 'Home', kind: 'page', to: '/use' },
        ...home.menu
          .flatMap((g) => g.pages)
          .map((p) => ({ label: p.label, kind: 'page', to: `/use/page/${p.key}` })),
        ...home.walkthroughs.map((w) => ({ label: w.label, kind: 'begin', begins: w.key })),
        ...home.open.map((r) => ({ label: r.label, kind: 'go on with', to: `/use/run/${r.id}` })),
      ]
    : []

/** What is in Build: documents, the fields of objects, and what belongs to the app. */
export const buildPlaces = (contents: Contents | null): Place[] =>
  contents
    ? [
        ...documentKinds.flatMap((kind) =>
          contents.documents
            .filter((d) => d.kind === kind)
            .map((d) => ({
              label: kind === 'app' ? documents.app.chapter : d.label,
              kind: kind === 'app' ? 'app' : kind,
              to: `/build/${kind}/${d.key}`,
            })),
        ),
        ...contents.objects.flatMap((o) =>
          o.fields.map((f) => ({
            label: f.label,
            kind: `field of ${o.label}`,
            to: `/build/object/${o.key}`,
          })),
        ),
        ...contents.objects.map((o) => ({
          label: o.plural,
          kind: 'all records',
          to: `/build/object/${o.key}/records`,
        })),
        { label: 'People and rights', kind: 'app', to: '/build/people' },
        { label: 'Bring in a file', kind: 'app', to: '/build/intake' },
      ]
    : []

/** Every word is in it; what begins with the first comes first. */
export function matching(places: Place[], text: string): Place[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const says = (p: Place) => `${p.label} ${p.kind}`.toLowerCase()
  const rank = (p: Place) => (p.label.toLowerCase().startsWith(words[0]) ? 0 : 1)
  return places
    .filter((p) => words.every((w) => says(p).includes(w)))
    .sort((a, b) => rank(a) - rank(b) || a.label.length - b.label.length || a.label.localeCompare(b.label))
}

const same = (a: Place, b: Place) => a.to === b.to && a.begins === b.begins && a.label === b.label

/** Where one went by it lately, the latest first, as far as it is still there. */
export function useRecent(side: () => string, places: Ref<Place[]>) {
  const kept = useStorage<Record<string, Place[]>>('plainpath.jumps', {})
  const most = 8
  const recent = computed(() =>
    (kept.value[side()] ?? []).filter((p) => p.kind === 'record' || places.value.some((o) => same(o, p))),
  )
  function went(place: Place): void {
    const rest = (kept.value[side()] ?? []).filter((p) => !same(p, place))
    kept.value = { ...kept.value, [side()]: [place, ...rest].slice(0, most) }
  }
  return { recent, went }
}

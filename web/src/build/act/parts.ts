import type { Band, Page, Part } from '@/api/types'
import { stepOf } from '../conditions/context'
import { useSheet } from '../sheet/context'
import { sheetRows } from '../sheet/rows'

/** The parts of the screen that a step shows, or of the page with its searches, as they are chosen from. */
export function usePartsHere(place: () => string) {
  const sheet = useSheet()
  return (): { key: string; label: string; input: boolean; table: boolean }[] => {
    const step = sheetRows(sheet.steps.value).find((r) => r.step?.key === stepOf(place()))?.step
    const bands: Band[] = step?.screen?.bands ?? (sheet.body() as Page).bands ?? []
    const parts: Part[] = bands.flatMap((b) => b.columns.flatMap((c) => c.parts))
    const searches = (step ? step.screen?.searches : (sheet.body() as Page).searches) ?? []
    return [
      ...parts.map((p) => ({
        key: p.key,
        label: p.label || p.key,
        input: p.kind === 'input',
        table: p.kind === 'table',
      })),
      ...searches.map((s) => ({
        key: s.key,
        label: `search “${s.label || s.key}”`,
        input: false,
        table: false,
      })),
    ]
  }
}

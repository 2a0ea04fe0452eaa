import type { Component } from 'vue'
import type { Look, PartKind, PartView, ShippedView } from '@/api/types'
import { fieldTypes } from '@/fields/fields'
import DetailsPart from './DetailsPart.vue'
import InputPart from './InputPart.vue'
import { answerOf, nothing, type Selection } from './selection'
import type { SurfaceSource } from './source'
import SwitchTable from './SwitchTable.vue'
import TablePart from './TablePart.vue'
import TextPart from './TextPart.vue'

/** What the view of every part is given. */
export interface PartProps {
  part: PartView
  source: SurfaceSource
  problem?: string
  /** Views can be given to others. */
  ships?: boolean
}

/** What the view of a part may tell. */
export interface PartEmits {
  go: []
  written: []
  looked: [look: Look]
  edited: [rows: number[]]
  ship: [view: ShippedView]
}

/** A part as people see it. */
interface PartEntry {
  view: (part: PartView) => Component
  /** What a person gives: what it begins with, how it is sent, and whether it is typed letter by letter. */
  gives?: {
    begin: (part: PartView) => unknown
    answer: (part: PartView, held: unknown) => unknown
    typed: (part: PartView) => boolean
  }
}

/** Every kind of part there is. */
export const parts: Record<PartKind, PartEntry> = {
  input: {
    view: () => InputPart,
    gives: {
      begin: (part) => part.value ?? null,
      answer: (_part, held) => held ?? null,
      typed: (part) => !fieldTypes[part.input!.type].picked,
    },
  },
  table: {
    view: (part) => (part.table?.others?.length ? SwitchTable : TablePart),
    gives: {
      begin: (part): Selection => ({ ...nothing(), rows: part.table?.chosen ?? [] }),
      answer: (part, held) =>
        part.table && part.table.select !== 'none'
          ? answerOf(held as Selection, part.table.select)
          : undefined,
      typed: () => false,
    },
  },
  details: { view: () => DetailsPart },
  text: { view: () => TextPart },
}

import { type Component, defineAsyncComponent } from 'vue'
import type { Look, Part, PartKind, PartView, ShippedView } from '@/api/types'
import type { Sentence } from '@/build/asks'
import { fieldTypes } from '@/fields/fields'
import ButtonPart from './ButtonPart.vue'
import DetailsPart from './DetailsPart.vue'
import { type Beginning, columns, texts } from './fresh'
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
  press: []
  looked: [look: Look]
  edited: [rows: number[]]
  ship: [view: ShippedView]
}

/** A kind of part: as people see it, and as builders make it. */
interface PartEntry {
  label: string
  /** One, as it is offered. */
  one: string
  view: (part: PartView) => Component
  /** What a person gives: what it begins with, how it is sent, and whether it is typed letter by letter. */
  gives?: {
    begin: (part: PartView) => unknown
    answer: (part: PartView, held: unknown) => unknown
    typed: (part: PartView) => boolean
  }
  /** What a builder is asked for, where that fits a sentence, or else what it is edited with. */
  asks?: Sentence<Part>
  editor?: Component
  /** What it shows, which has to be known. */
  shows?: 'list' | 'record' | 'rows'
  /** It stands on screens of walkthroughs alone. */
  screens?: true
  /** It is there to set something going, which nothing does on a closing screen. */
  pressed?: true
  /** It has a label that people read. */
  labelled: boolean
  fresh: (from: Beginning) => Part
  /** What people see of it, in a line. */
  says: (part: Part) => string
}

// These stand on screens of walkthroughs, so that whoever opens a page need not load them.
const EntriesPart = defineAsyncComponent(() => import('./EntriesPart.vue'))
const LinesPart = defineAsyncComponent(() => import('./LinesPart.vue'))

const FormPart = defineAsyncComponent(() => import('./FormPart.vue'))
const FigurePart = defineAsyncComponent(() => import('./FigurePart.vue'))
const CardsPart = defineAsyncComponent(() => import('./CardsPart.vue'))
const ViewerPart = defineAsyncComponent(() => import('./ViewerPart.vue'))
const PicturePart = defineAsyncComponent(() => import('./PicturePart.vue'))
const PlacePart = defineAsyncComponent(() => import('./PlacePart.vue'))
const FinderPart = defineAsyncComponent(() => import('./FinderPart.vue'))
const CalendarPart = defineAsyncComponent(() => import('./CalendarPart.vue'))
const ChartPart = defineAsyncComponent(() => import('./ChartPart.vue'))
const MenuPart = defineAsyncComponent(() => import('./MenuPart.vue'))
const HistoryPart = defineAsyncComponent(() => import('./HistoryPart.vue'))

const chosen = { none: 'to read', one: 'one row', several: 'several rows' }

/** Every kind of part there is, in the order in which they are offered. */
export const parts: Record<PartKind, PartEntry> = {
  input: {
    label: 'Input',
    one: 'An input',
    view: () => InputPart,
    gives: {
      begin: (part) => part.value ?? null,
      answer: (_part, held) => held ?? null,
      typed: (part) => !fieldTypes[part.input!.type].picked,
    },
    editor: defineAsyncComponent(() => import('@/build/part/InputEditor.vue')),
    labelled: true,
    fresh: ({ key, page }) => ({
      key: key('input'),
      kind: 'input',
      label: 'New input',
      input: page ? { type: 'text' } : { type: 'text', required: true },
    }),
    says: (part) => part.label || part.key,
  },
  entries: {
    label: 'Rows',
    one: 'Rows to type in',
    view: () => EntriesPart,
    gives: {
      begin: (part) => part.value ?? [],
      answer: (_part, held) => held ?? [],
      typed: () => true,
    },
    editor: defineAsyncComponent(() => import('@/build/part/EntriesEditor.vue')),
    screens: true,
    labelled: true,
    fresh: ({ key }) => ({
      key: key('rows'),
      kind: 'entries',
      label: 'Rows',
      entries: { ask: [{ key: 'what', label: 'What', type: 'text', required: true }] },
    }),
    says: (part) => `${part.label || 'Rows'}: typed in`,
  },
  table: {
    label: 'Table',
    one: 'A table',
    view: (part) => (part.table?.others?.length ? SwitchTable : TablePart),
    gives: {
      begin: (part): Selection => ({ ...nothing(), rows: part.table?.chosen ?? [] }),
      answer: (part, held) =>
        part.table && part.table.select !== 'none'
          ? answerOf(held as Selection, part.table.select)
          : undefined,
      typed: () => false,
    },
    editor: defineAsyncComponent(() => import('@/build/part/TableEditor.vue')),
    shows: 'list',
    labelled: true,
    fresh: ({ key, of, page }) => ({
      key: key((page ? of?.object?.plural : of?.object?.key) ?? 'table'),
      kind: 'table',
      label: of?.object?.plural ?? 'Table',
      table: {
        source: of?.path ?? '',
        select: 'one',
        columns: columns(of?.object, page),
        ...(page && of?.object ? { keyword: texts(of.object).slice(0, 3) } : {}),
      },
    }),
    says: (part) => `${part.label || 'Table'}: table, ${part.table ? (chosen[part.table.select] ?? '') : ''}`,
  },
  cards: {
    label: 'Cards',
    one: 'Cards of several lists',
    view: () => CardsPart,
    editor: defineAsyncComponent(() => import('@/build/part/CardsEditor.vue')),
    labelled: true,
    fresh: ({ key }) => ({
      key: key('cards'),
      kind: 'cards',
      label: 'Cards',
      cards: { sources: [] },
    }),
    says: (part) => `${part.label || 'Cards'}: ${(part.cards?.sources ?? []).map((s) => s.label).join(', ')}`,
  },
  form: {
    label: 'Form',
    one: 'A form',
    view: () => FormPart,
    editor: defineAsyncComponent(() => import('@/build/part/FormEditor.vue')),
    shows: 'record',
    labelled: true,
    fresh: ({ key, of }) => ({
      key: key('form'),
      kind: 'form',
      label: of?.object?.label ?? 'Form',
      form: {
        ...(of?.path ? { source: of.path } : { object: of?.object?.key }),
        fields: (of?.object?.fields ?? [])
          .filter((f) => f.type !== 'worked_out' && f.type !== 'running_number')
          .slice(0, 12)
          .map((f) => ({ field: f.key })),
      },
    }),
    says: (part) => `${part.label || 'Form'}: ${part.form?.source ? 'to change' : 'to add'}`,
  },
  details: {
    label: 'Details',
    one: 'Details',
    view: () => DetailsPart,
    editor: defineAsyncComponent(() => import('@/build/part/DetailsEditor.vue')),
    shows: 'record',
    labelled: true,
    fresh: ({ key, of, page }) => {
      const all = of?.object?.fields.map((f) => f.key) ?? []
      const shown = page || !of?.object ? all.slice(0, 8) : [of.object.label_field]
      return {
        key: key('details'),
        kind: 'details',
        label: 'Details',
        details: { source: of?.path ?? '', fields: shown.map((path) => ({ path })) },
      }
    },
    says: (part) => part.label || part.key,
  },
  lines: {
    label: 'Lines',
    one: 'Lines to read over',
    view: () => LinesPart,
    editor: defineAsyncComponent(() => import('@/build/part/LinesEditor.vue')),
    shows: 'rows',
    labelled: true,
    fresh: ({ key, of }) => ({
      key: key('lines'),
      kind: 'lines',
      label: 'Lines',
      lines: { source: of?.path ?? '', columns: of?.values ?? [] },
    }),
    says: (part) => `${part.label || 'Lines'}: to read over`,
  },
  history: {
    label: 'History',
    one: 'What happened to a record',
    view: () => HistoryPart,
    editor: defineAsyncComponent(() => import('@/build/part/HistoryEditor.vue')),
    shows: 'record',
    labelled: true,
    fresh: ({ key, of }) => ({
      key: key('history'),
      kind: 'history',
      label: 'History',
      history: { source: of?.path ?? '' },
    }),
    says: (part) => `${part.label || 'History'}: what happened`,
  },
  figure: {
    label: 'Figure',
    one: 'A figure',
    view: () => FigurePart,
    editor: defineAsyncComponent(() => import('@/build/part/FigureEditor.vue')),
    shows: 'list',
    labelled: true,
    fresh: ({ key, of }) => ({
      key: key('figure'),
      kind: 'figure',
      label: of?.object?.plural ?? 'Figure',
      figure: { source: of?.path ?? '' },
    }),
    says: (part) => `${part.label || 'Figure'}: a figure`,
  },
  chart: {
    label: 'Chart',
    one: 'A chart',
    view: () => ChartPart,
    gives: {
      begin: () => null,
      answer: (part, held) => (part.chart?.gives ? (held ?? undefined) : undefined),
      typed: () => false,
    },
    editor: defineAsyncComponent(() => import('@/build/part/ChartEditor.vue')),
    shows: 'list',
    labelled: true,
    fresh: ({ key, of }) => {
      const by =
        of?.object?.fields.find((f) => f.type === 'choice') ??
        of?.object?.fields.find((f) => fieldTypes[f.type].family === 'time')
      const span = by && by.type !== 'choice' ? ('month' as const) : undefined
      return {
        key: key('chart'),
        kind: 'chart',
        label: of?.object?.plural ?? 'Chart',
        chart: { source: of?.path ?? '', drawn: 'columns', ...(by ? { by: { path: by.key, span } } : {}) },
      }
    },
    says: (part) => `${part.label || 'Chart'}: a chart`,
  },
  calendar: {
    label: 'Calendar',
    one: 'A calendar',
    view: () => CalendarPart,
    editor: defineAsyncComponent(() => import('@/build/part/CalendarEditor.vue')),
    shows: 'list',
    labelled: true,
    fresh: ({ key, of }) => {
      const times = of?.object?.fields.filter((f) => f.type === 'date' || f.type === 'date_time') ?? []
      return {
        key: key('calendar'),
        kind: 'calendar',
        label: of?.object?.plural ?? 'Calendar',
        calendar: { source: of?.path ?? '', starts: times[0]?.key ?? '' },
      }
    },
    says: (part) => `${part.label || 'Calendar'}: a calendar`,
  },
  viewer: {
    label: 'Document',
    one: 'A file of a record',
    view: () => ViewerPart,
    editor: defineAsyncComponent(() => import('@/build/part/HeldEditor.vue')),
    shows: 'record',
    labelled: true,
    fresh: ({ key, of }) => ({
      key: key('document'),
      kind: 'viewer',
      label: '',
      viewer: {
        source: of?.path ?? '',
        path: of?.object?.fields.find((f) => fieldTypes[f.type].family === 'file')?.key ?? '',
      },
    }),
    says: (part) => `${part.label || 'Document'}: a file`,
  },
  picture: {
    label: 'Picture',
    one: 'A picture of a record',
    view: () => PicturePart,
    editor: defineAsyncComponent(() => import('@/build/part/HeldEditor.vue')),
    shows: 'record',
    labelled: true,
    fresh: ({ key, of }) => ({
      key: key('picture'),
      kind: 'picture',
      label: '',
      picture: {
        source: of?.path ?? '',
        path: of?.object?.fields.find((f) => f.type === 'picture')?.key ?? '',
      },
    }),
    says: (part) => `${part.label || 'Picture'}: a picture`,
  },
  place: {
    label: 'Address',
    one: 'An address of a record',
    view: () => PlacePart,
    editor: defineAsyncComponent(() => import('@/build/part/HeldEditor.vue')),
    shows: 'record',
    labelled: true,
    fresh: ({ key, of }) => ({
      key: key('address'),
      kind: 'place',
      label: '',
      place: {
        source: of?.path ?? '',
        path: of?.object?.fields.find((f) => f.type === 'address')?.key ?? '',
      },
    }),
    says: (part) => `${part.label || 'Address'}: an address`,
  },
  text: {
    label: 'Text',
    one: 'A text',
    view: () => TextPart,
    asks: [
      { as: 'text', member: 'text', label: 'Text', empty: 'Values stand in braces: {today}', long: true },
    ],
    labelled: false,
    fresh: ({ key }) => ({ key: key('text'), kind: 'text', text: 'A text' }),
    says: (part) => `“${part.text}”`,
  },
  button: {
    label: 'Button',
    one: 'A button',
    view: () => ButtonPart,
    pressed: true,
    labelled: true,
    fresh: ({ key }) => ({ key: key('button'), kind: 'button', label: 'New button', button: {} }),
    says: (part) => part.label || part.key,
  },
  finder: {
    label: 'Search box',
    one: 'A search box',
    view: () => FinderPart,
    editor: defineAsyncComponent(() => import('@/build/part/FinderEditor.vue')),
    labelled: true,
    fresh: ({ key }) => ({ key: key('search_box'), kind: 'finder', label: 'Find', finder: { objects: [] } }),
    says: (part) => `${part.label || 'Find'}: a search box`,
  },
  menu: {
    label: 'Menu',
    one: 'A menu of what can be done',
    view: () => MenuPart,
    editor: defineAsyncComponent(() => import('@/build/part/MenuEditor.vue')),
    labelled: true,
    fresh: ({ key }) => ({
      key: key('menu'),
      kind: 'menu',
      label: '',
      menu: { unfinished: true, walkthroughs: true },
    }),
    says: (part) => `${part.label || 'Menu'}: where to go`,
  },
}

export const partKinds = Object.keys(parts) as PartKind[]

import type { Component } from 'vue'
import type { ObjectDef, Part, PartKind } from '@/api/types'
import { fieldTypes, isShort } from '@/fields/fields'
import DetailsEditor from './DetailsEditor.vue'
import InputEditor from './InputEditor.vue'
import TableEditor from './TableEditor.vue'
import TextEditor from './TextEditor.vue'

/** What the editor of every part is given; it emits what is to be changed of the part. */
export interface PartEditorProps {
  part: Part
  step: string
  pointer: string
  /** On a page, what feeds the part and when it is offered is set beside it. */
  page?: boolean
}

/** What a new part has to begin with. */
export interface Beginning {
  /** A key that is free, like what is wished for. */
  key: (wish: string) => string
  /** What can be shown: a list or a record that is known, and its object. */
  of?: { path: string; object?: ObjectDef }
  page?: boolean
}

/** A part on the builder's side. */
interface PartEntry {
  label: string
  editor: Component
  /** What it shows, which has to be known. */
  shows?: 'list' | 'record'
  /** It has a label that people read. */
  labelled: boolean
  fresh: (from: Beginning) => Part
  /** What people see of it, in a line. */
  says: (part: Part) => string
}

/** The columns that a table of an object begins with: what it is called by, and on a page what is short. */
function columns(object: ObjectDef | undefined, page: boolean | undefined): { path: string }[] {
  if (!object) return []
  const others = page ? object.fields.filter((f) => isShort(f.type)).map((f) => f.key) : []
  return [object.label_field, ...others.filter((k) => k !== object.label_field)]
    .slice(0, 7)
    .map((path) => ({ path }))
}

const texts = (object: ObjectDef) =>
  object.fields.filter((f) => fieldTypes[f.type].searchable && isShort(f.type)).map((f) => f.key)

const chosen = { none: 'to read', one: 'one row', several: 'several rows' }

/** Every kind of part there is, in the order in which they are offered. */
export const parts: Record<PartKind, PartEntry> = {
  input: {
    label: 'Input',
    editor: InputEditor,
    labelled: true,
    fresh: ({ key, page }) => ({
      key: key('input'),
      kind: 'input',
      label: 'New input',
      input: page ? { type: 'text' } : { type: 'text', required: true },
    }),
    says: (part) => part.label || part.key,
  },
  table: {
    label: 'Table',
    editor: TableEditor,
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
  details: {
    label: 'Details',
    editor: DetailsEditor,
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
  text: {
    label: 'Text',
    editor: TextEditor,
    labelled: false,
    fresh: ({ key }) => ({ key: key('text'), kind: 'text', text: 'A text' }),
    says: (part) => `“${part.text}”`,
  },
}

export const partKinds = Object.keys(parts) as PartKind[]

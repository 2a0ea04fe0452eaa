import type { Component } from 'vue'
import type { ContentsItem } from '@/api/types'

export type DocumentKind = ContentsItem['kind']

/** A kind of document on the builder's side. */
interface DocumentEntry {
  /** The heading over those of the kind in the contents, and where its own work is done, if anywhere. */
  chapter: string
  rights?: { label: string; to: string }
  /** The page that edits one. */
  page: () => Promise<Component>
  /** How a new one is begun: what it is and who gets it; what it holds besides. */
  fresh?: { asks: string; example: string; body: object }
  /** New ones are made some other way. */
  brought?: boolean
  /** What becomes of what is stored when one is removed. */
  removed?: string
}

/** Every kind of document there is, in the order of the contents. */
export const documents: Record<DocumentKind, DocumentEntry> = {
  walkthrough: {
    chapter: 'Walkthroughs',
    page: () => import('./WalkPage.vue'),
    fresh: { asks: 'Who may start it?', example: 'Book a visit', body: { steps: [] } },
  },
  page: {
    chapter: 'Pages',
    page: () => import('./page/PageEditor.vue'),
    fresh: { asks: 'Who may open it?', example: 'Service calls', body: { searches: [], bands: [] } },
  },
  object: {
    chapter: 'Objects',
    page: () => import('./object/ObjectPage.vue'),
    brought: true,
    removed: 'Its records are hidden, not lost.',
  },
  role: {
    chapter: 'People',
    page: () => import('./RolePage.vue'),
    rights: { label: 'Rights', to: '/build/people' },
  },
  app: { chapter: 'Settings', page: () => import('./SettingsPage.vue') },
}

export const documentKinds = Object.keys(documents) as DocumentKind[]

import type { Component } from 'vue'
import type { Act, ActKind } from '@/api/types'
import AddAct from './AddAct.vue'
import ChangeAct from './ChangeAct.vue'
import ConfirmAct from './ConfirmAct.vue'
import DownloadAct from './DownloadAct.vue'
import HoldAct from './HoldAct.vue'
import OpenAct from './OpenAct.vue'
import ReadAgainAct from './ReadAgainAct.vue'
import RemoveAct from './RemoveAct.vue'
import RunAct from './RunAct.vue'
import SayAct from './SayAct.vue'
import SetAct from './SetAct.vue'
import WorkOutAct from './WorkOutAct.vue'

/** An act on the builder's side: what a new one says, and what it is edited with. */
interface ActEntry {
  fresh: () => Partial<Act>
  /** What edits its settings; the editor of searches is that of pages, too. */
  editor?: Component
  /** What it does with records, as the sheet says. */
  touches?: 'reads' | 'writes'
  /** What comes of it is known afterwards, by a key. */
  gives?: boolean
}

/** Every act there is; what each is called comes from the server. */
export const acts: Record<ActKind, ActEntry> = {
  search: { fresh: () => ({ search: { object: '', where: { all: [] } } }), touches: 'reads', gives: true },
  add: { fresh: () => ({ add: { object: '', values: [] } }), editor: AddAct, touches: 'writes', gives: true },
  change: { fresh: () => ({ change: { values: [] } }), editor: ChangeAct, touches: 'writes', gives: true },
  remove: { fresh: () => ({ remove: {} }), editor: RemoveAct, touches: 'writes', gives: true },
  work_out: { fresh: () => ({ work_out: { value: '' } }), editor: WorkOutAct, gives: true },
  run: { fresh: () => ({ run: { walkthrough: '' } }), editor: RunAct },
  say: { fresh: () => ({ say: { text: 'Done.' } }), editor: SayAct },
  confirm: { fresh: () => ({ confirm: { question: 'Go on?' } }), editor: ConfirmAct },
  set: { fresh: () => ({ set: { part: '' } }), editor: SetAct },
  read_again: { fresh: () => ({ read_again: {} }), editor: ReadAgainAct },
  hold: { fresh: () => ({ hold: { text: 'Please wait …' } }), editor: HoldAct },
  open: { fresh: () => ({ open: {} }), editor: OpenAct },
  copy_link: { fresh: () => ({}) },
  download: { fresh: () => ({ download: { format: 'csv' } }), editor: DownloadAct },
}

/** A step is an act, or waits for a person, or says where it goes on. */
export function isAct(kind: string): kind is ActKind {
  return kind in acts
}

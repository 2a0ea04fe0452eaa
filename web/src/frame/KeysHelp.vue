<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import Dialog from 'primevue/dialog'
import { command, useKeysHelp } from './keys'

const open = useKeysHelp()

const groups: { title: string; keys: [string, string][] }[] = [
  {
    title: 'Everywhere',
    keys: [
      ['?', 'This sheet'],
      ['Ctrl K', 'Jump anywhere by name'],
      ['Tab · Shift Tab', 'Next, previous'],
      ['Escape', 'Close what is open'],
    ],
  },
  {
    title: 'Tables',
    keys: [
      ['↑ ↓ ← →', 'From cell to cell; ↑ from the first row to the headings'],
      ['Home · End', 'First, last cell of the row; with Ctrl of the table'],
      ['Space', 'Choose the row'],
      ['Enter', 'Choose the row; go on when one is wanted'],
      ['F2 · a letter', 'Change the cell'],
      ['Ctrl D · Ctrl V', 'As in the cell above; paste a block'],
      ['Ctrl Z · Ctrl S', 'Undo; save the rows'],
      ['Alt ↓', 'Open the row; on a heading, its menu'],
      ['→ · ←', 'On a group: open, close it'],
      ['Alt Enter · Delete', 'On a group: where it comes from; leave it out'],
      ['Enter · Shift Enter', 'On a heading: order by it; and then by it'],
      ['Alt ← · Alt →', 'On a heading: move the column; with Shift its width'],
    ],
  },
  {
    title: 'The sheet of a walkthrough',
    keys: [
      ['↑ ↓', 'From step to step'],
      ['Enter', 'Open or close the step'],
      ['Shift Enter', 'New step after this one'],
      ['Alt ↑ · Alt ↓', 'Move the step, from way to way of a branch too'],
      ['Alt → · Alt ←', 'Move the step into the branch beside it; out of its branch'],
      ['Delete', 'Remove the step'],
      ['Ctrl Z · Ctrl Shift Z', 'Undo, redo'],
    ],
  },
  {
    title: 'A page being built',
    keys: [
      ['W', 'Draw what feeds the part that is chosen, and what it feeds'],
      ['Alt and an arrow', 'On the name of a part: move it, into the column or band beside too'],
      ['Ctrl C · Ctrl V', 'On the name of a part: copy it; put it behind'],
      ['Ctrl Z · Ctrl Shift Z', 'Undo, redo'],
    ],
  },
  {
    title: 'The fields of an object',
    keys: [
      ['↑ ↓', 'From field to field'],
      ['Enter', 'Open or close the field'],
      ['Alt ↑ · Alt ↓', 'Move the field'],
      ['Ctrl Z · Ctrl Shift Z', 'Undo, redo'],
    ],
  },
]

useEventListener('keydown', (event: KeyboardEvent) => {
  if (command(event) !== 'help') return
  open.value = true
  event.preventDefault()
})
</script>

<template>
  <Dialog v-model:visible="open" modal header="Keys" :style="{ width: '30rem' }" dismissable-mask>
    <section v-for="g in groups" :key="g.title">
      <h2>{{ g.title }}</h2>
      <dl>
        <template v-for="[key, what] in g.keys" :key="key">
          <dt>{{ key }}</dt>
          <dd>{{ what }}</dd>
        </template>
      </dl>
    </section>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 11rem 1fr;
  gap: 0.25rem 1rem;
  margin: 0.4rem 0 1rem;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
}
</style>

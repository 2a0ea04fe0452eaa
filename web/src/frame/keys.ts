import { createSharedComposable } from '@vueuse/core'
import { ref } from 'vue'

/** Whether the sheet of keys is open. */
export const useKeysHelp = createSharedComposable(() => ref(false))

/** Whether the box that goes anywhere is open. */
export const useJump = createSharedComposable(() => ref(false))

/** Says whether a key press belongs to a field somebody is typing in. */
export function typing(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null
  return !!target?.closest('input, textarea, select, [contenteditable]')
}

/** What a key press asks for besides moving and writing; '' is for everything else. */
export type Command = 'help' | 'save' | 'undo' | 'redo' | 'fill' | 'jump' | 'wiring' | ''

const letters: Record<string, Command> = { s: 'save', z: 'undo', y: 'redo', d: 'fill', k: 'jump' }
const taken = new WeakSet<Event>()

/** Somebody typed this into something: it asks for nothing else. */
export function take(event: Event): void {
  taken.add(event)
}

/**
 * The one place that says what keys ask for. Letters count whether they are written large, and where
 * the layout has others, by their place; what belongs to a letter that is still being composed asks
 * for nothing.
 */
export function command(event: KeyboardEvent): Command {
  if (event.isComposing || event.keyCode === 229 || event.altKey || taken.has(event)) return ''
  if (event.ctrlKey || event.metaKey) {
    const written = event.key.toLowerCase()
    const letter = /^[a-z]$/.test(written) ? written : event.code.replace(/^Key/, '').toLowerCase()
    const asked = letters[letter] ?? ''
    return asked === 'undo' && event.shiftKey ? 'redo' : asked
  }
  if (typing(event)) return ''
  return event.key === '?' ? 'help' : event.key.toLowerCase() === 'w' ? 'wiring' : ''
}

let down = false
for (const [event, is] of [
  ['pointerdown', true],
  ['pointerup', false],
  ['pointercancel', false],
  ['dragend', false],
] as const)
  addEventListener(event, () => (down = is), true)

/**
 * Does something at once, or as soon as what is being pressed is let go. Leaving a field by pressing a button writes
 * what was typed; what is drawn anew because of that may move the button from under the finger, and the press is lost.
 */
export function afterPress(work: () => void): void {
  if (!down) return work()
  const ends = ['pointerup', 'pointercancel', 'dragend'] as const
  const done = () => {
    for (const e of ends) removeEventListener(e, done, true)
    work()
  }
  for (const e of ends) addEventListener(e, done, true)
}

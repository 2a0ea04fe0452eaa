const parts = new Intl.NumberFormat().formatToParts(1234567.8)
const point = parts.find((p) => p.type === 'decimal')?.value ?? '.'
const between = parts.find((p) => p.type === 'group')?.value ?? ','

const quoted = (mark: string) => mark.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
// Some languages group by a space that nobody has a key for.
const mark = /\s/.test(between) ? '[\\s\u00a0\u202f]' : quoted(between)
const grouped = new RegExp(`^-?\\d+(${mark}\\d{3})+(${quoted(point)}\\d*)?$`)

/** A number as it is sent, as the person writes it. */
export function written(number: string): string {
  return number.replace('.', point)
}

/**
 * What a person wrote as it is sent: with a point, and without what stands between
 * thousands. What is no number stays as it is, to be refused in words: a comma that could
 * mean either is not guessed at.
 */
export function read(text: string): string {
  let out = text.trim()
  if (grouped.test(out)) out = out.replace(new RegExp(mark, 'g'), '')
  return point === '.' ? out : out.replace(point, '.')
}

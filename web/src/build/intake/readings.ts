import type { IntakeColumn, Reading } from '@/api/types'
import { typeWords } from '@/fields/fields'

const forms: Record<string, string> = {
  point: 'decimal point',
  comma: 'decimal comma',
  dmy: 'day first',
  mdy: 'month first',
  ymd: 'year first',
}

/** A way to read cells, in words. */
export function readingWords(r: Reading): string {
  return typeWords(r.type) + (r.form ? ', ' + forms[r.form] : '')
}

export const readingKey = (r: Reading): string => r.type + '/' + (r.form ?? '')

/** A reading as it is offered. */
export interface ReadingOption {
  key: string
  reading: Reading
  label: string
}

/** Every reading a column can be given, with how many cells fit. */
export function readingOptions(c: IntakeColumn): ReadingOption[] {
  const options: ReadingOption[] = c.evidence.map((e) => ({
    key: readingKey(e.reading),
    reading: e.reading,
    label: `${readingWords(e.reading)} — ${e.misfits ? `${e.fits} fit, ${e.misfits} ${e.misfits === 1 ? 'does' : 'do'} not` : 'all fit'}`,
  }))
  const text = c.evidence.find((e) => e.reading.type === 'text' || e.reading.type === 'long_text')
  for (const type of ['text', 'long_text'] as const)
    if (text && text.reading.type !== type)
      options.push({ key: type + '/', reading: { type }, label: `${typeWords(type)} — all fit` })
  if (c.choices?.length)
    options.push(
      { key: 'choice/', reading: { type: 'choice' }, label: `choice — of ${c.choices.length} values` },
      {
        key: 'several_choices/',
        reading: { type: 'several_choices' },
        label: 'several choices — apart by commas or semicolons',
      },
    )
  return options
}

/** One thing that is asked for. */
interface Asked<S> {
  member: keyof S & string
  /** What it is, for those who hear it. */
  label: string
  /** What stands there while it is empty; a function where that depends on whether a button is about rows. */
  empty?: string | ((rows: boolean) => string)
  /** The member is left out when it is empty. */
  optional?: boolean
}

/** What is asked for, and how. */
export type Ask<S> =
  | (Asked<S> & { as: 'text'; long?: boolean })
  | (Asked<S> & { as: 'known'; kind?: 'list' | 'record' | 'records'; wide?: boolean })
  | (Asked<S> & { as: 'part'; inputs?: boolean; all?: string })
  | (Asked<S> & { as: 'choice'; options: string[] })

/** The settings of an act or a part as a sentence: words, and what is asked for between them. */
export type Sentence<S> = (string | Ask<S>)[]

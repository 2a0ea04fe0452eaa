/** How many options are drawn whether they are in sight or not. */
const few = 60

/** Long lists of options draw only what is in sight; every option is one line of this height. */
export function longList(options: readonly unknown[] | undefined): { itemSize: number } | undefined {
  return (options?.length ?? 0) > few ? { itemSize: 34 } : undefined
}

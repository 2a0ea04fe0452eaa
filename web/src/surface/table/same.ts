/** Values are the same when they are written alike; nothing is the same as empty. */
export const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null)

/** As a value is compared and sent: references by their keys alone. */
export const bare = (v: unknown) =>
  v && typeof v === 'object' && 'id' in v ? { id: (v as { id: number }).id } : v

export const sameKey = (a: unknown, b: unknown) => same(bare(a), bare(b))

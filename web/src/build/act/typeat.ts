import type { ExprType, Name } from '@/api/types'
import { target, type useBuild } from '../build'

/** The type of a known value by its path; undefined for an expression that is more than a path. */
export function typeAt(
  build: ReturnType<typeof useBuild>,
  names: Name[],
  path: string,
): ExprType | undefined {
  const [root, ...rest] = path.split('.')
  let type = names.find((n) => n.key === root)?.type
  for (const part of rest) {
    const answer = type?.answers?.find((a) => a.key === part)?.type
    const field = build.object(type?.object)?.fields.find((f) => f.key === part)
    const object = field && target(field)
    type = answer ?? (object ? { kind: 'record', object } : undefined)
  }
  return type
}

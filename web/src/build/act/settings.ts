import type { Operand, Assignment } from '@/api/types'

/** Settings in which a field is set to a value, or not set any more. */
export function withSetting(settings: Assignment[], field: string, value: Operand | undefined): Assignment[] {
  if (!value) return settings.filter((s) => s.field !== field)
  if (!settings.some((s) => s.field === field)) return [...settings, { field, value }]
  return settings.map((s) => (s.field === field ? { field, value } : s))
}

import { useMutation } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ProblemError, titleOf } from './client'

/** Something that is done when somebody says so: whether it is under way, and why it was not done. */
export function useDoing() {
  const mutation = useMutation({ mutationFn: (work: () => Promise<void>) => work() })
  /** Said in the place of the error. */
  const said = ref('')
  const failed = computed(() => said.value || (mutation.error.value ? titleOf(mutation.error.value) : ''))
  /** What is wrong with each thing entered, by its key. */
  const problems = computed(() => {
    const error = mutation.error.value
    const all = error instanceof ProblemError ? (error.problem.problems ?? []) : []
    return Object.fromEntries(
      all.filter((p) => p.pointer).map((p) => [p.pointer.slice(1), p.text]),
    ) as Record<string, string>
  })

  /** Does it, and says whether that went well. */
  async function attempt(work: () => Promise<void>): Promise<boolean> {
    said.value = ''
    try {
      await mutation.mutateAsync(work)
      return true
    } catch {
      return false // failed says why
    }
  }

  function reset(): void {
    said.value = ''
    mutation.reset()
  }

  return { busy: mutation.isPending, failed, problems, error: mutation.error, attempt, reset, said }
}

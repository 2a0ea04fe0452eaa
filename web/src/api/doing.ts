import { computed, ref, shallowRef } from 'vue'
import { ProblemError, titleOf } from './client'

/**
 * Something that is done when somebody says so: whether it is under way, and why it was not done. All of it is
 * known as soon as an attempt has ended, so that whoever waited for it can ask.
 */
export function useDoing() {
  const underWay = ref(0)
  const error = shallowRef<unknown>()
  /** Said in the place of the error. */
  const said = ref('')
  const failed = computed(() => said.value || (error.value === undefined ? '' : titleOf(error.value)))
  /** What is wrong with each thing entered, by its key. */
  const problems = computed<Record<string, string>>(() => {
    const all = error.value instanceof ProblemError ? (error.value.problem.problems ?? []) : []
    return Object.fromEntries(all.filter((p) => p.pointer).map((p) => [p.pointer.slice(1), p.text]))
  })

  function reset(): void {
    said.value = ''
    error.value = undefined
  }

  /** Does it, and says whether that went well; failed says why it did not. */
  async function attempt(work: () => Promise<void>): Promise<boolean> {
    reset()
    underWay.value++
    try {
      await work()
      return true
    } catch (reason) {
      error.value = reason
      return false
    } finally {
      underWay.value--
    }
  }

  return { busy: computed(() => underWay.value > 0), failed, problems, error, attempt, reset, said }
}

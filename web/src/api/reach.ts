import { onScopeDispose, ref } from 'vue'
import { ProblemError } from './client'

/** How long to wait before something is sent again, at first and at most, in milliseconds. */
export const patience = { first: 1000, most: 15000 }

/** What is said while something is asked after whose answer was lost. */
export const silent = 'The server does not answer. What was begun is asked after until it does.'

/** Whether an error says that the server was not reached, or could do nothing just then. */
export function unreached(error: unknown): boolean {
  return (
    error instanceof ProblemError && (error.problem.type === 'connection' || error.problem.status === 503)
  )
}

/**
 * Tries until the server answers: pausing longer each time, at once when the network is back or
 * somebody asks for it.
 */
export function useReach() {
  const lost = ref(false)
  let wake = () => {}

  async function rest(time: number): Promise<void> {
    let timer: ReturnType<typeof setTimeout> | undefined
    await new Promise<void>((done) => {
      timer = setTimeout(done, time)
      wake = done
      window.addEventListener('online', wake)
    })
    clearTimeout(timer)
    window.removeEventListener('online', wake)
  }

  async function reach<T>(work: (again: boolean) => Promise<T>): Promise<T> {
    let again = false
    for (let pause = patience.first; ; pause = Math.min(2 * pause, patience.most)) {
      try {
        const out = await work(again)
        lost.value = false
        return out
      } catch (error) {
        lost.value = unreached(error)
        if (!lost.value) throw error
        again = true
        await rest(pause)
      }
    }
  }

  return { lost, reach, now: () => wake() }
}

/** The same for as long as what begins it is there: then it is given up, and nobody is told. */
export function useReachHere() {
  const { lost, reach, now } = useReach()
  let gone = false
  onScopeDispose(() => {
    gone = true
    now()
  })
  return {
    lost,
    gone: () => gone,
    reach: <T>(work: () => Promise<T>): Promise<T> =>
      reach(() => {
        if (gone) throw new Error('what began it was left')
        return work()
      }),
  }
}

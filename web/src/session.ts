import { defineStore } from 'pinia'
import { ref } from 'vue'
import { useSessionStorage } from '@vueuse/core'
import { kept } from './api/asked'
import { api, given, onSession, ProblemError, setCSRF, setSeeAs } from './api/client'
import { useReach } from './api/reach'
import type { Session } from './api/types'
import { setZone } from '@/fields/zone'

export const useSession = defineStore('session', () => {
  const me = ref<Session | null>(null)
  /** The person through whose eyes a builder looks, in this tab. */
  const as = useSessionStorage('plainpath.as', { id: 0, name: '' })
  setSeeAs(as.value.id)

  function take(session: Session): void {
    me.value = session
    setCSRF(session.csrf)
    setZone(session.zone)
  }

  // Tabs tell each other of a session that began or was ended.
  const others = new BroadcastChannel('plainpath.session')
  others.onmessage = (e: MessageEvent<string>) =>
    void (e.data === 'in' ? changed().catch(() => false) : expired())

  // Whoever was at something when the session ended signs in on the spot, and it goes on.
  let waiting: { again: Promise<boolean>; go: (on: boolean) => void } | undefined

  function ended(): Promise<boolean> {
    expired()
    if (!waiting) {
      let go: (on: boolean) => void = () => {}
      waiting = { again: new Promise((done) => (go = done)), go: (on) => go(on) }
    }
    return waiting.again
  }

  /** There is another session: nothing of one person's is sent as another. */
  function renewed(session: Session): boolean {
    const another = !!me.value?.id && session.id !== me.value.id
    if (another) location.assign('/')
    else take(session)
    waiting?.go(!another)
    waiting = undefined
    return !another
  }

  async function changed(): Promise<boolean> {
    const session = await given(api.GET('/session'))
    return session.signed_in ? renewed(session) : ended()
  }
  onSession(ended, changed)

  async function load(): Promise<Session> {
    if (!me.value || me.value.not_set_up) take(await given(api.GET('/session')))
    return me.value!
  }

  /** The session, as soon as the server answers: until then it is asked again and again. */
  const reach = useReach()
  const reached = () => reach.reach(load)

  async function signIn(email: string, password: string): Promise<void> {
    renewed(await given(api.POST('/session', { body: { email, password } })))
    others.postMessage('in')
  }

  /** The server was not reached when somebody signed out: it may still know the session. */
  const lingers = ref(false)

  async function signOut(): Promise<void> {
    seeAs(0, '')
    lingers.value = false
    try {
      await given(api.DELETE('/session'))
      others.postMessage('out')
    } catch (error) {
      lingers.value = !(error instanceof ProblemError && error.problem.status === 401)
    }
    // What waited to be asked again was this person's.
    waiting?.go(false)
    waiting = undefined
    kept.clear()
    me.value = null
  }

  function seeAs(id: number, name: string): void {
    as.value = { id, name }
    setSeeAs(id)
  }

  /** Times are in a zone of one's own, or with '' in that of the app. */
  async function keepTimeIn(zone: string): Promise<void> {
    take(await given(api.PUT('/session/zone', { body: { zone } })))
  }

  /** The server no longer knows the session. */
  function expired(): void {
    if (me.value) me.value = { ...me.value, signed_in: false }
  }

  return {
    me,
    as,
    lingers,
    away: reach.lost,
    askAgain: reach.now,
    load,
    reached,
    signIn,
    signOut,
    seeAs,
    keepTimeIn,
  }
})

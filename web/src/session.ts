import { defineStore } from 'pinia'
import { ref } from 'vue'
import { useSessionStorage } from '@vueuse/core'
import { api, setCSRF, setSeeAs } from './api/client'
import type { Session } from './api/types'
import { setZone } from './surface/zone'

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

  async function load(): Promise<Session> {
    if (!me.value) take(await api.get<Session>('/session'))
    return me.value!
  }

  async function signIn(email: string, password: string): Promise<void> {
    take(await api.post<Session>('/session', { email, password }))
  }

  async function signOut(): Promise<void> {
    seeAs(0, '')
    await api.remove('/session')
    me.value = null
    await load()
  }

  function seeAs(id: number, name: string): void {
    as.value = { id, name }
    setSeeAs(id)
  }

  /** Times are in a zone of one's own, or with '' in that of the app. */
  async function keepTimeIn(zone: string): Promise<void> {
    take(await api.put<Session>('/session/zone', { zone }))
  }

  /** The server no longer knows the session. */
  function expired(): void {
    if (me.value) me.value = { ...me.value, signed_in: false }
  }

  return { me, as, load, signIn, signOut, seeAs, keepTimeIn, expired }
})

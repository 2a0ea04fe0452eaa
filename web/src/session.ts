import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, setCSRF } from './api/client'
import type { Session } from './api/types'

export const useSession = defineStore('session', () => {
  const me = ref<Session | null>(null)

  function take(session: Session): void {
    me.value = session
    setCSRF(session.csrf)
  }

  async function load(): Promise<Session> {
    if (!me.value) take(await api.get<Session>('/session'))
    return me.value!
  }

  async function signIn(email: string, password: string): Promise<void> {
    take(await api.post<Session>('/session', { email, password }))
  }

  async function signOut(): Promise<void> {
    await api.remove('/session')
    me.value = null
    await load()
  }

  /** The server no longer knows the session. */
  function expired(): void {
    if (me.value) me.value = { ...me.value, signed_in: false }
  }

  return { me, load, signIn, signOut, expired }
})

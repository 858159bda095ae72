/** Who is signed in: asked once, kept for all pages. */
import { shallowRef } from 'vue'
import { api, type Session, taken } from '@/api/client'

const session = shallowRef<Session | null>(null)

export async function loadSession(): Promise<Session | null> {
  if (session.value?.username) return session.value
  try {
    session.value = await taken(api.GET('/api/session'))
  } catch {
    return null
  }
  return session.value
}

export function useSession() {
  return {
    session,
    load: loadSession,
    async signIn(username: string, password: string): Promise<void> {
      session.value = await taken(api.POST('/api/session/sign-in', { body: { username, password } }))
    },
    async signUp(username: string, password: string): Promise<void> {
      session.value = await taken(api.POST('/api/session/sign-up', { body: { username, password } }))
    },
    async enterDemo(): Promise<void> {
      session.value = await taken(api.POST('/api/session/demo'))
    },
    async signOut(): Promise<void> {
      session.value = await taken(api.DELETE('/api/session'))
    },
  }
}

/** Who is signed in: asked once, kept for all pages; and noticing that it has ended elsewhere. */
import { ref, shallowRef } from 'vue'
import { forgetSongs } from '@/base/offline'
import { api, onSignedOut, type Session, taken } from '@/api/client'

const session = shallowRef<Session | null>(null)
/** The account of this page was signed out in another tab, or its session ran out. */
const signedOut = ref(false)

onSignedOut(() => {
  if (session.value?.username) signedOut.value = true
})

export async function loadSession(): Promise<Session | null> {
  if (session.value?.username) return session.value
  try {
    const found = await taken(api.GET('/api/session'))
    // Signing in may have been quicker than this answer: it is about the time before.
    if (!session.value?.username) session.value = found
  } catch {
    return null
  }
  return session.value
}

/**
 * Whether this browser is still signed in to the account that the page was opened with; if not, that
 * is said from now on. Asked when something is not there that was: to another account it is not.
 */
export async function isStillMine(): Promise<boolean> {
  const mine = session.value?.username
  if (!mine) return true
  try {
    const now = await taken(api.GET('/api/session'))
    if (now.username !== mine) signedOut.value = true
    return now.username === mine
  } catch {
    return true
  }
}

async function enter(how: Promise<Session>): Promise<void> {
  await forgetSongs()
  session.value = await how
  signedOut.value = false
}

export function useSession() {
  return {
    session,
    signedOut,
    load: loadSession,
    signIn: (username: string, password: string): Promise<void> =>
      enter(taken(api.POST('/api/session/sign-in', { body: { username, password } }))),
    signUp: (username: string, password: string, email = '', invitation = ''): Promise<void> =>
      enter(taken(api.POST('/api/session/sign-up', { body: { username, password, email, invitation } }))),
    enterDemo: (): Promise<void> => enter(taken(api.POST('/api/session/demo'))),
    /** The account is gone: nothing of it stays in this browser. */
    async forget(): Promise<void> {
      await forgetSongs()
      session.value = null
    },
    async signOut(): Promise<void> {
      await forgetSongs()
      session.value = await taken(api.DELETE('/api/session'))
    },
  }
}

/** Who has signed in, where people sign in. */
import { computed, ref } from 'vue'

import { api, isSignedOut } from '@/api/client'

import type { Session } from '@/api/client'

import { queries } from './queries'

const session = ref<Session>({ signIn: false, account: null, institution: '', link: 0, passkeys: false })
export const who = computed(() => session.value.account)
/** One looks at a study by a link: nothing can be changed. */
export const isLooking = computed(() => session.value.link > 0)
/** One can sign in by a passkey at this address. */
export const hasPasskeys = computed(() => session.value.passkeys)
/** What people call the institution by which one can sign in. */
export const institution = computed(() => session.value.institution)

/** Asks once, before anything of the studies is shown. */
export async function findOut(): Promise<void> {
  if (!document.querySelector('meta[name="sign-in"]')) return // nobody signs in here
  const found = await api.session().catch(() => null) // whoever cannot be reached says so elsewhere
  if (!found) return
  session.value = found
  isSignedOut.value = found.signIn && !found.account && !found.link
}

export function signedIn(as: Session): void {
  // What another person was shown is not shown to this one.
  if (session.value.account && session.value.account.email !== as.account?.email) queries.clear()
  session.value = as
  isSignedOut.value = false
  void queries.invalidateQueries()
}

export async function signOut(): Promise<void> {
  await api.signOut()
  queries.clear()
  session.value = { ...session.value, signIn: true, account: null }
  isSignedOut.value = true
}

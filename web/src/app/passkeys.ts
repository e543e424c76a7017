/** What a browser asks a device about passkeys. */
import { api } from '@/api/client'

/** Whether this browser knows passkeys, in the form in which the server speaks of them. */
export const knowsPasskeys = 'PublicKeyCredential' in globalThis && 'parseRequestOptionsFromJSON' in PublicKeyCredential

type Answer = Record<string, unknown>
const told = (credential: Credential | null) => (credential as PublicKeyCredential).toJSON() as unknown as Answer

/** Has a device make a passkey, which is kept under a name. */
export async function makePasskey(name: string) {
  const { state, options } = await api.beginPasskey()
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(options as unknown as PublicKeyCredentialCreationOptionsJSON)
  return api.finishPasskey(state, name, told(await navigator.credentials.create({ publicKey })))
}

/** Signs in by whichever passkey the device has for here. */
export async function enterByPasskey() {
  const { state, options } = await api.beginPasskeySignIn()
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(options as unknown as PublicKeyCredentialRequestOptionsJSON)
  return api.signInByPasskey(state, told(await navigator.credentials.get({ publicKey })))
}

/** Whether a device said no, rather than the server. */
export const isStopped = (error: unknown) => error instanceof DOMException

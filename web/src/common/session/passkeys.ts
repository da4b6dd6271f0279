import { Problem, answer, api } from '../api'
import { session } from './session'

type Ceremonies = typeof PublicKeyCredential & {
  parseCreationOptionsFromJSON?: unknown
  parseRequestOptionsFromJSON?: unknown
}

/** Whether this browser holds passkeys for the server as it is asked. */
export function hasPasskeys() {
  const does = typeof PublicKeyCredential !== 'undefined' && (PublicKeyCredential as Ceremonies)
  return !!session.value?.has_passkeys && !!does && !!does.parseRequestOptionsFromJSON
}

/** What the device did, in the words in which browsers send it; a problem where it did nothing. */
async function done(asked: Promise<Credential | null>, nothing: string): Promise<Record<string, never>> {
  const credential = await asked.catch((error: unknown) => {
    const isKnown = error instanceof DOMException && error.name === 'InvalidStateError'
    throw new Problem(0, isKnown ? 'This device holds a passkey of yours already.' : nothing, [])
  })
  if (!credential) throw new Problem(0, nothing, [])
  return (credential as PublicKeyCredential).toJSON() as Record<string, never>
}

/** Has the device make a passkey; what to send the server of it. */
export async function makePasskey() {
  const options = (await answer(api.POST('/api/v1/passkeys/ask'))) as PublicKeyCredentialCreationOptionsJSON
  const publicKey = PublicKeyCredential.parseCreationOptionsFromJSON(options)
  return done(navigator.credentials.create({ publicKey }), 'The device made no passkey.')
}

/** Has the device say who is there. */
export async function signWithPasskey() {
  const options = (await answer(
    api.POST('/api/v1/session/passkey/ask'),
  )) as PublicKeyCredentialRequestOptionsJSON
  const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(options)
  const nothing = 'The device signed nobody in: it holds no passkey for this server, or it was stopped.'
  return done(navigator.credentials.get({ publicKey }), nothing)
}

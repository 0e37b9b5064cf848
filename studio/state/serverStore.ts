import { create } from 'zustand'
import { DOCUMENT_VERSION } from '../../core/backdrop/BackdropDocument'
import { answers } from '../api/answers'

interface ServerState {
  /** Whether the server is of another version than this page: it was updated since. */
  readonly outdated: boolean
  /** Whether someone has to sign in before anything is read or saved. */
  readonly signInNeeded: boolean
  /** Increases after each sign-in, so that waiting work continues. */
  readonly signIns: number
  onVersion(version: string): void
  onSignInNeeded(): void
  onSignedIn(): void
}

/** The build of this page; `dev` where nothing was built. */
export const OWN_VERSION = `${DOCUMENT_VERSION}.${typeof __TELON_BUILD__ === 'string' ? __TELON_BUILD__ : 'dev'}`

/**
 * Whether two versions can work together: builds that are not known are trusted, documents must be
 * the same.
 */
export function isSameVersion(own: string, theirs: string): boolean {
  const [ownDocument, ownBuild] = own.split('.')
  const [theirDocument, theirBuild] = theirs.split('.')
  if (ownDocument !== theirDocument) return false
  return ownBuild === 'dev' || theirBuild === 'dev' || ownBuild === theirBuild
}

/** What the server's answers say about it: its version, and whether sign-in is required. */
export const useServer = create<ServerState>((set) => ({
  outdated: false,
  signInNeeded: false,
  signIns: 0,
  onVersion: (version) =>
    set((state) =>
      state.outdated || isSameVersion(OWN_VERSION, version) ? state : { outdated: true },
    ),
  onSignInNeeded: () => set((state) => (state.signInNeeded ? state : { signInNeeded: true })),
  onSignedIn: () => set((state) => ({ signInNeeded: false, signIns: state.signIns + 1 })),
}))

answers.subscribe((now, before) => {
  if (now.version) useServer.getState().onVersion(now.version)
  if (now.refusals > before.refusals) useServer.getState().onSignInNeeded()
})

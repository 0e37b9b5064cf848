import { register } from 'tsx/esm/api'

// Threads do not inherit the loader of TypeScript; the built server starts `probeThread.js` instead
// of this.
register()
await import('./probeThread.ts')

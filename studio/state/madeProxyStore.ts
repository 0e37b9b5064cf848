import { create } from 'zustand'

/** Which scrub proxy the frame worker holds: a clip, and the first frame of its part. */
export const useMadeProxy = create<{ readonly proxy: string }>(() => ({ proxy: '' }))

import { hasClips } from '../kinds'
import type { Particles } from '../particles/Particles'
import type { BackdropDocument } from './BackdropDocument'
import { renderHindrance } from './delivered'

/** More than so many times what a playing clip takes is too much for weak machines. */
const MAX_LIVE_LOAD = 3

/**
 * Whether particles are better drawn live or rendered, and why. `load` is what they take of a
 * processor, in that of a playing clip; null while it is not known. The document has particles.
 */
export function particleAdvice(
  { base, particles }: Pick<BackdropDocument, 'base' | 'particles'>,
  load: number | null,
): { readonly form: Particles['form']; readonly because: string } {
  const hindrance = renderHindrance(base)
  if (hindrance) return { form: 'live', because: hindrance }
  if (particles!.definition.pointer)
    return { form: 'live', because: 'Only what is drawn live can follow a mouse.' }
  if (hasClips(base))
    return {
      form: 'rendered',
      because: 'A clip is loaded and plays anyway: in it they cost visitors nothing more.',
    }
  if (load !== null && load > MAX_LIVE_LOAD)
    return {
      form: 'rendered',
      because: `Live they take about ${load.toFixed(1)} times the processor time of a clip, so weak machines would show fewer of them.`,
    }
  return {
    form: 'live',
    because: 'A few kilobytes in place of a clip, and sharp on every screen.',
  }
}

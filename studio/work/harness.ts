import type { RenditionFacts } from '../../core/api/wire'
import type { Recipe } from '../../core/backdrop/recipe'
import { MediaWorker } from './MediaWorker'
import type { ClipPlace } from './sources'

/* The page that the command line opens in a headless Chromium: the same worker as the studio's, driven from outside. */

declare global {
  interface Window {
    /** Renders `recipe` from the clip at `place`, posts the bytes to `resultUrl`, and tells progress through `telonProgress`. */
    telonRender(place: ClipPlace, recipe: Recipe, resultUrl: string): Promise<RenditionFacts>
    telonProgress?(done: number, pass: number): void
  }
}

const worker = new MediaWorker()

window.telonRender = async (place, recipe, resultUrl) => {
  const { bytes, facts } = await worker.run({ type: 'render', place, recipe }, { onStep: ({ done, pass }) => window.telonProgress?.(done, pass) })
  const answer = await fetch(resultUrl, { method: 'POST', body: bytes })
  if (!answer.ok) throw new Error(`the result was refused: ${answer.status}`)
  return facts
}

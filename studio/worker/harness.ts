import type { RenditionFacts } from '../../core/api/wire'
import type { Recipe } from '../../core/backdrop/recipe'
import type { Analysis } from '../../core/material/Analysis'
import { MediaWorker } from './MediaWorker'
import type { ClipPlace } from './sources'

/* The page that the command line opens in a headless Chromium: the same worker as the studio's, driven from outside. */

declare global {
  interface Window {
    /** Renders `recipe` from the clip at `place`, posts the bytes to `resultUrl`, and tells progress through `telonProgress`. */
    telonRender(place: ClipPlace, recipe: Recipe, resultUrl: string): Promise<RenditionFacts>
    /** Measures the source at `place`, posts its filmstrip to `resultUrl` and gives the figures. `mime` is null for clips. */
    telonAnalyse(place: ClipPlace, mime: string | null, resultUrl: string): Promise<{ analysis: Analysis; cells: number }>
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

window.telonAnalyse = async (place, mime, resultUrl) => {
  const onStep = ({ done, pass }: { done: number; pass: number }): void => window.telonProgress?.(done, pass)
  const { analysis, strip } = mime === null ? await worker.run({ type: 'analyse', place }, { onStep }) : await worker.run({ type: 'analyse-still', place, mime })
  const answer = await fetch(resultUrl, { method: 'POST', body: strip.bytes })
  if (!answer.ok) throw new Error(`the result was refused: ${answer.status}`)
  return { analysis, cells: strip.cells }
}

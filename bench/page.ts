import type { ClipRecipe } from '../core/backdrop/recipe'
import { ceilingRate } from '../core/weight/ceilingRate'
import { decodeFrames } from '../studio/worker/decodeFrames'
import { encodeFrames } from '../studio/worker/encodeFrames'
import { openClip } from '../studio/worker/OpenClip'
import { renderClip } from '../studio/worker/renderClip'
import { fileSource, httpSource } from '../studio/worker/sources'

/* Measures the pipeline against the encoder alone, on the same frames, in the same run. */

declare global {
  interface Window {
    /** Frames a second of encoding ready frames, and of the whole way from file to file; `runs` of each, in turn. */
    benchRender(url: string, bytes: number, recipe: ClipRecipe, runs: number): Promise<{ raw: number[]; whole: number[] }>
    /** Renders once from the file chosen in the page's field; gives the number of frames and the bytes of the output. */
    benchOnce(recipe: ClipRecipe): Promise<{ frames: number; output: number }>
  }
}

const never = new AbortController().signal

window.benchRender = async (url, bytes, recipe, runs) => {
  const clip = await openClip(httpSource(new URL(url, location.href).href, bytes))
  const count = Math.round((recipe.cut.end - recipe.cut.start) * (clip.presentation.timescale / recipe.cut.timescale) * (recipe.frameRate.num / recipe.frameRate.den) / clip.presentation.timescale)
  const order = { ...recipe, bitsPerSecond: ceilingRate(recipe.family, recipe.width, recipe.height, recipe.frameRate.num / recipe.frameRate.den) }
  const raw: number[] = []
  const whole: number[] = []
  for (let run = 0; run < runs; run++) {
    const ready: VideoFrame[] = []
    for await (const { frame } of decodeFrames(clip, 0, count - 1, never)) {
      // Copied out of the decoder, which would stop when its few frames are all held.
      const data = new Uint8Array(frame.allocationSize())
      await frame.copyTo(data)
      ready.push(new VideoFrame(data, { format: frame.format!, codedWidth: frame.visibleRect!.width, codedHeight: frame.visibleRect!.height, timestamp: frame.timestamp, colorSpace: frame.colorSpace.toJSON() }))
      frame.close()
    }
    const feed = async function* () {
      let k = 0
      for (const frame of ready) {
        yield new VideoFrame(frame, { timestamp: Math.round((k++ * 1e6 * recipe.frameRate.den) / recipe.frameRate.num) })
        frame.close()
      }
    }
    let start = performance.now()
    await encodeFrames(order, feed(), () => undefined, never)
    raw.push((count * 1000) / (performance.now() - start))
    start = performance.now()
    await renderClip(clip, { ...recipe, kind: 'clip', denoise: 0, goal: null }, null, () => undefined, never)
    whole.push((count * 1000) / (performance.now() - start))
  }
  return { raw, whole }
}

window.benchOnce = async (recipe) => {
  const chosen = document.querySelector('input')!.files![0]!
  const clip = await openClip(fileSource(chosen))
  const rendered = await renderClip(clip, recipe, null, () => undefined, never)
  return { frames: rendered.facts.frames, output: rendered.bytes.byteLength }
}

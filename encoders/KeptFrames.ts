import { join } from 'node:path'
import { recipeKey, type ClipRecipe } from '../core/backdrop/recipe'
import type { InputFiles, RenderBrowser } from '../headless/RenderBrowser'
import { removeScratch, scratchFolder } from './scratchFolder'
import { spoolFrames, type SpooledFrames } from './spoolFrames'

/**
 * The composed frames of the clip that was last worked on: formats of one size are encoded from the
 * same frames, so that these are composed once.
 */
export class KeptFrames {
  private kept: { readonly key: string; readonly folder: string; spooled: SpooledFrames } | null =
    null

  /**
   * The frames of a clip, composed if they are not those that are kept. Errors: those of
   * `spoolFrames`.
   */
  async of(
    browser: RenderBrowser,
    files: InputFiles,
    recipe: Omit<ClipRecipe, 'goal' | 'kind'>,
    signal: AbortSignal,
    onFrames: (done: number) => void,
  ): Promise<SpooledFrames> {
    // Neither format nor encoder decides the frames.
    const key = recipeKey({ ...recipe, kind: 'probe', family: 'h264', encoder: null })
    if (this.kept?.key === key) return this.kept.spooled
    await this.clear()
    const folder = await scratchFolder('telon-frames')
    try {
      const path = join(folder, 'frames')
      const spooled = await spoolFrames(browser, files, recipe, path, signal, onFrames)
      this.kept = { key, folder, spooled }
      return spooled
    } catch (error) {
      await removeScratch(folder)
      throw error
    }
  }

  /** Removes them. */
  async clear(): Promise<void> {
    const { kept } = this
    this.kept = null
    if (kept) await removeScratch(kept.folder)
  }
}

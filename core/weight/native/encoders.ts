import type { Family } from '../families'
import type { Encoder, Program } from './Encoder'
import { aomenc } from './programs/aomenc'
import { svtAv1 } from './programs/svtAv1'
import { vpxenc } from './programs/vpxenc'
import { x264 } from './programs/x264'

/*
 * The encoders. Settings were chosen on drawn clips and camera clips: docs/weight.md. All make
 * closed groups of frames that begin with the loop's first frame, with no further key frames but at
 * cuts.
 */

/** All encoders, those that are taken first at the front. */
export const ENCODERS: readonly Encoder[] = [svtAv1, aomenc, vpxenc, x264]

/** An encoder by the name of its program. */
export function encoderOf(program: Program): Encoder {
  return ENCODERS.find((each) => each.program === program)!
}

/** The Debian packages with the encoder that is taken first for each format. */
export const DEBIAN_PACKAGES: Readonly<Record<Family, string>> = {
  av1: 'svt-av1',
  vp9: 'vpx-tools',
  h264: 'x264',
}

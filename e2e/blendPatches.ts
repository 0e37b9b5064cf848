import sharp from 'sharp'
import { scrimImage } from '../core/handoff/layers/scrim'
import { BLEND_MODES, blendOver } from '../core/picture/blend'
import { formatHex, parseHex } from '../core/picture/srgb'
import { evenLayer } from '../core/scrim/Scrim'

/* A page on which every blend mode mixes every pair of some colours, and what it should show. */

const COLORS = [
  '#000000',
  '#ffffff',
  '#808080',
  '#e0641e',
  '#1e46c8',
  '#28a050',
  '#f0dc96',
  '#3c2846',
]
const STRENGTHS = [1, 0.6]
const SIDE = 10
const BLOCK = COLORS.length * SIDE

const blocks = BLEND_MODES.flatMap((blend, column) =>
  STRENGTHS.map((strength, row) => ({ blend, strength, x: column * BLOCK, y: row * BLOCK })),
)

export const PATCHES_SIZE = { width: BLEND_MODES.length * BLOCK, height: STRENGTHS.length * BLOCK }

const box = (x: number, y: number, style: string): string =>
  `<div style="position:absolute;left:${x}px;top:${y}px;width:${SIDE}px;height:${SIDE}px;${style}"></div>`

export const patchesPage = (): string =>
  `<!doctype html><html lang="en"><meta charset="utf-8"><title>Blend modes</title><body style="margin:0">${blocks
    .map(({ blend, strength, x, y }) => {
      const pairs = COLORS.flatMap((under, down) =>
        COLORS.map((over, across) => {
          const image = scrimImage([evenLayer(over, strength)])
          const [left, top] = [across * SIDE, down * SIDE]
          return (
            box(left, top, `background:${under}`) +
            box(left, top, `background-image:${image};mix-blend-mode:${blend}`)
          )
        }),
      )
      return `<div style="position:absolute;left:${x}px;top:${y}px;isolation:isolate">${pairs.join('')}</div>`
    })
    .join('')}`

/** How far a picture of the page is from our formulas at most, of 255, and in which mode. */
export async function farthest(picture: Uint8Array): Promise<{ off: number; what: string }> {
  const { data, info } = await sharp(picture)
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
  let worst = { off: 0, what: 'none' }
  for (const { blend, strength, x, y } of blocks)
    for (const [down, under] of COLORS.entries())
      for (const [across, over] of COLORS.entries()) {
        const seen = blendOver(blend, { ...parseHex(over), alpha: strength }, parseHex(under))
        const at =
          ((y + down * SIDE + SIDE / 2) * info.width + x + across * SIDE + SIDE / 2) * info.channels
        const off = Math.max(
          ...[seen.r, seen.g, seen.b].map((value, channel) =>
            Math.abs(value - data[at + channel]!),
          ),
        )
        if (off > worst.off)
          worst = { off, what: `${blend} at ${strength}: ${over} on ${under}, ${formatHex(seen)}` }
      }
  return worst
}

import { chromium } from 'playwright-core'
import { MAX_ELEMENTS, type Definition } from '../core/particles/Definition'
import type { drawLinks, linksOf } from '../core/particles/links'
import type { painterOf } from '../core/particles/Painter'
import { prepare } from '../core/particles/prepare'
import { styleOf } from '../core/particles/styles'
import { withCount } from '../core/particles/withCount'
import { engineScript } from '../e2e/particleEngine'
import { CHROMIUM } from '../headless/RenderBrowser'

/*
 * What a frame of particles costs, as a ratio to a bare loop that draws as many sprites of the same
 * sizes, and as many lines, in the same run: the median of interleaved pairs.
 */

const AREA = { width: 1280, height: 720 } as const
const COUNTS = [80, 300, 1000, MAX_ELEMENTS]
const PAIRS = 25

interface Engine {
  readonly painterOf: typeof painterOf
  readonly drawLinks: typeof drawLinks
  readonly linksOf: typeof linksOf
}

/** The frames' costs in milliseconds: of the engine, of the bare loop, and their ratios. */
async function costs(
  definition: Definition,
  script: string,
): Promise<{ engine: number; ratio: number; links: number }> {
  const browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
  try {
    const page = await browser.newPage({ viewport: AREA })
    // The name helper of what runs TypeScript here is not there.
    await page.evaluate('globalThis.__name = (named) => named')
    return await page.evaluate(
      ([code, prepared, area, pairs]) => {
        const engine = new Function(`${code}; return particles`)() as Engine
        const context = (): OffscreenCanvasRenderingContext2D =>
          new OffscreenCanvas(area.width, area.height).getContext('2d')!
        const [ours, theirs] = [context(), context()]
        let seen: { x: number; y: number; size: number; opacity: number }[] = []
        const look = (points: readonly object[]): void => {
          seen = points as typeof seen
        }
        const draw = engine.painterOf(prepared, area, 1, [look, engine.drawLinks])
        draw(ours, 1)
        const sprite = new OffscreenCanvas(92, 92)
        const glow = sprite.getContext('2d')!
        const light = glow.createRadialGradient(46, 46, 0, 46, 46, 32)
        light.addColorStop(0, '#ffffff')
        light.addColorStop(1, '#ffffff00')
        glow.fillStyle = light
        glow.fillRect(0, 0, 92, 92)
        const linking = prepared[0][6]
        const links = linking ? engine.linksOf(seen, linking[0], linking[1]) : []
        const bare = (): void => {
          theirs.setTransform(1, 0, 0, 1, 0, 0)
          theirs.clearRect(0, 0, area.width, area.height)
          theirs.strokeStyle = '#ffffff66'
          theirs.lineWidth = linking ? linking[2] : 1
          theirs.beginPath()
          for (const [one, other] of links) {
            theirs.moveTo(seen[one]!.x, seen[one]!.y)
            theirs.lineTo(seen[other]!.x, seen[other]!.y)
          }
          theirs.stroke()
          for (const { x, y, size: wide, opacity } of seen) {
            if (opacity < 0.002) continue
            const scale = wide / 64
            theirs.globalAlpha = opacity
            theirs.setTransform(scale, 0, 0, scale, x, y)
            theirs.drawImage(sprite, -46, -46)
          }
          theirs.globalAlpha = 1
        }
        const timed = (of: OffscreenCanvasRenderingContext2D, work: () => void): number => {
          const began = performance.now()
          work()
          // Reading a pixel waits until all is painted.
          of.getImageData(0, 0, 1, 1)
          return performance.now() - began
        }
        const rounds = Array.from({ length: pairs + 5 }, (_, index) => ({
          ours: timed(ours, () => void draw(ours, 1 + index / 30)),
          theirs: timed(theirs, bare),
        })).slice(5)
        const median = (values: number[]): number =>
          values.sort((one, other) => one - other)[values.length >> 1]!
        return {
          engine: median(rounds.map((each) => each.ours)),
          ratio: median(rounds.map((each) => each.ours / each.theirs)),
          links: links.length,
        }
      },
      [script, prepare(definition), AREA, PAIRS] as const,
    )
  } finally {
    await browser.close()
  }
}

/** Prints the costs of snow and of linked dots by the number of elements. */
export async function measureParticleCost(): Promise<void> {
  const script = await engineScript('testing/drawing')
  for (const id of ['quiet-snowfall', 'route-net'])
    for (const count of COUNTS) {
      const { definition } = styleOf(id)!
      const { engine, ratio, links } = await costs(withCount(definition, AREA, count), script)
      console.log(
        `particles ${id}, ${count}${links > 0 ? ` with ${links} links` : ''}: ${engine.toFixed(1)} ms a frame, ${ratio.toFixed(2)} of a bare loop, ${((engine * 1000) / count).toFixed(0)} µs an element`,
      )
    }
}

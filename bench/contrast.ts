import { statSync } from 'node:fs'
import { join } from 'node:path'
import { draft } from '../cli/draft'
import { RenderBrowser } from '../headless/RenderBrowser'
import { evenLayer } from '../core/scrim/Scrim'

/*
 * What measuring all copy costs: making a trace against decoding alone, in turns in the same run;
 * then the answers to a change of the scrim.
 */

const SECONDS = 10
const TURNS = 5
const median = (values: readonly number[]): number =>
  [...values].sort((one, other) => one - other)[values.length >> 1]!

export async function measureContrastCost(files: string): Promise<void> {
  const file = join(files, 'dusk-window.mov')
  const drafted = await draft([file], {
    out: '',
    end: SECONDS,
    speed: 1,
    noiseReduction: 0,
    copyBlur: 0,
    once: false,
    seam: 'straight',
    poster: 'first',
    plainIndex: false,
    belowFold: false,
    shuffle: false,
    render: false,
    controls: false,
    particles: null,
  })
  const bench = await RenderBrowser.start('/bench/page.html')
  try {
    const { href } = new URL(bench.lend(file), bench.page.url())
    const times = await bench.page.evaluate(
      ([place, turns, frames]) => window.benchTrace(place, frames, turns),
      [{ url: href, bytes: statSync(file).size }, TURNS, SECONDS * 24] as const,
    )
    const ratios = times.map(({ decode, trace }) => trace / decode)
    console.log(
      `trace of ${SECONDS} s of 1080p: ${median(times.map(({ trace }) => trace)).toFixed(1)} ms a frame, decoding alone ${median(times.map(({ decode }) => decode)).toFixed(1)}, ratio ${median(ratios).toFixed(2)} (${ratios.map((each) => each.toFixed(2)).join(', ')})`,
    )
  } finally {
    await bench.stop()
  }
  const browser = await RenderBrowser.start()
  try {
    for (const blend of [null, 'multiply', 'soft-light', 'color'] as const) {
      const took: Readonly<Record<string, number>>[] = []
      for (let turn = 0; turn <= TURNS; turn++) {
        const even = evenLayer('#14101c', 0.2 + turn * 0.1)
        const layers = blend ? [even, { ...even, blend }] : [even]
        const found = await browser.contrasts(
          drafted.file,
          { ...drafted.document, scrim: { layers } },
          drafted.known,
        )
        // The first one decodes.
        if (turn > 0) took.push(found!.took)
      }
      for (const phase of ['quick', 'screen', 'all'])
        console.log(
          `a change of the scrim, ${blend ?? 'not blended'}, ${phase}: ${median(took.map((each) => each[phase] ?? NaN)).toFixed(0)} ms`,
        )
    }
  } finally {
    await browser.stop()
  }
}

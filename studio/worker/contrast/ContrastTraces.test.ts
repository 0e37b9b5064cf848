import { describe, expect, it } from 'vitest'
import { plainSequence } from '../../../core/kinds/footage/footageSequence'
import type { ScreenView } from '../../../core/legibility/CopySamples'
import { createI420 } from '../../../core/picture/I420'
import type { OpenSequence } from '../sequences/OpenSequence'
import type { WorkError } from '../WorkError'
import type { ContrastBase } from './ContrastOrder'
import { ContrastTraces } from './ContrastTraces'

/** So many that only what lies behind copy can be kept. */
const FRAMES = 400
const SEQUENCE = plainSequence({
  size: { width: 1920, height: 1080 },
  cut: { timescale: 24, start: 0, end: FRAMES },
  frameRate: { num: 24, den: 1 },
  loops: true,
})
const baseOf = (key: string): ContrastBase => ({
  key,
  sequence: SEQUENCE,
  places: {},
  copyBlur: null,
  picture: SEQUENCE.size,
})
const viewAt = (x: number): ScreenView => ({
  picture: SEQUENCE.size,
  region: { width: 1280, height: 720 },
  focal: { x: 0.5, y: 0.5 },
  texts: [
    {
      label: 'Heading',
      boxes: [{ x, y: 300, width: 120, height: 60 }],
      color: '#ffffff',
      needed: 3,
      plate: null,
    },
  ],
})
const never = new AbortController().signal

/** Opens a clip of one grey, and counts how often. */
function opener(onFrame: (number: number) => void = () => undefined) {
  const opened = { times: 0 }
  const open = (): Promise<OpenSequence> => {
    opened.times += 1
    return Promise.resolve({
      sequence: SEQUENCE,
      async *composed(numbers: readonly number[], { width, height }, signal: AbortSignal) {
        const picture = createI420(width, height)
        picture.data.fill(120)
        const composed = {
          picture,
          colour: {},
          kind: { matrix: 'bt709', fullRange: false } as const,
        }
        for (const number of numbers) {
          onFrame(number)
          if (signal.aborted) return
          yield { ...composed, show: composed, under: null }
        }
      },
    } as Partial<OpenSequence> as OpenSequence)
  }
  return { opened, open }
}

describe('traces of what is behind copy', () => {
  it('are made once for each base, and again where copy has moved away', async () => {
    const traces = new ContrastTraces()
    const { opened, open } = opener()
    const done: number[] = []
    const get = (key: string, x: number) =>
      traces.get(baseOf(key), [viewAt(x)], open, never, (each) => done.push(each))
    const first = await get('one', 100)
    expect(done.at(-1)).toBe(1)
    expect(await get('one', 100)).toBe(first)
    expect(await get('one', 104)).toBe(first)
    expect(opened.times).toBe(1)
    await get('one', 1100)
    expect(opened.times).toBe(2)
    await get('two', 100)
    expect(opened.times).toBe(3)
  })
  it('of the bases looked at last are remembered, not more', async () => {
    const traces = new ContrastTraces()
    const { opened, open } = opener()
    const get = (key: string) => traces.get(baseOf(key), [], open, never, () => undefined)
    for (const key of ['a', 'b', 'c', 'd', 'e', 'e', 'd', 'c', 'b']) await get(key)
    expect(opened.times).toBe(5)
    await get('a')
    expect(opened.times).toBe(6)
  })
  it('are decoded once for all who ask at the same time, and again where the first one stopped', async () => {
    const traces = new ContrastTraces()
    const { opened, open } = opener()
    const get = (signal: AbortSignal) =>
      traces.get(baseOf('one'), [], open, signal, () => undefined)
    const [one, other] = await Promise.all([get(never), get(never)])
    expect([opened.times, one === other]).toEqual([1, true])
    const late = new ContrastTraces()
    const abort = new AbortController()
    const stopping = opener((number) => number === 20 && abort.abort())
    const first = late
      .get(baseOf('two'), [], stopping.open, abort.signal, () => undefined)
      .catch((error: WorkError) => error.code)
    const second = late.get(baseOf('two'), [], open, never, () => undefined)
    expect([await first, (await second).frames]).toEqual(['work/cancelled', FRAMES])
    expect(opened.times).toBe(2)
  })
  it('are not kept where decoding was stopped half-way', async () => {
    const traces = new ContrastTraces()
    const abort = new AbortController()
    const { open } = opener((number) => number === 50 && abort.abort())
    const code = await traces
      .get(baseOf('one'), [], open, abort.signal, () => undefined)
      .then(
        () => 'done',
        (error: WorkError) => error.code,
      )
    expect(code).toBe('work/cancelled')
    const again = opener()
    const whole = await traces.get(baseOf('one'), [], again.open, never, () => undefined)
    expect([again.opened.times, whole.frames]).toEqual([1, FRAMES])
  })
})

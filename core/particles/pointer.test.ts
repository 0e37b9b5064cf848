import { describe, expect, it } from 'vitest'
import type { Definition } from './Definition'
import type { Context, Point } from './Painter'
import { reactionToPointer, type PointerMove } from './pointer'
import { prepare } from './prepare'
import { STYLES } from './styles'

const SNOW = STYLES[0]!.definition
const RADIUS = 100
/** A canvas that lies 10 pixels from the left and 20 from the top of the window. */
const context = { canvas: { getBoundingClientRect: () => ({ left: 10, top: 20 }) } }
const there = context as unknown as Context
const moved = (x: number, y: number, fields: Partial<PointerMove> = {}): PointerMove => ({
  type: 'pointermove',
  pointerType: 'mouse',
  clientX: x + 10,
  clientY: y + 20,
  relatedTarget: null,
  ...fields,
})
const unchanged = (colour: string): string => colour

/** What a pointer at a place does to points when it has been there long enough. */
function reacted(
  reaction: NonNullable<Definition['pointer']>['reaction'],
  points: readonly Point[],
  { strength = 1, leaves = false, pointerType = 'mouse' } = {},
): Point[] {
  const prepared = prepare({ ...SNOW, pointer: { reaction, radius: RADIUS, strength } })
  const { extra, point } = reactionToPointer()
  point(moved(200, 100, { pointerType }))
  let seen: Point[] = []
  const turn = (): void => {
    seen = points.map((each) => ({ ...each }))
    extra(seen, there, prepared, unchanged)
  }
  for (let frame = 0; frame < 90; frame++) turn()
  if (leaves) {
    point(moved(0, 0, { type: 'pointerout' }))
    for (let frame = 0; frame < 90; frame++) turn()
  }
  return seen
}

describe('a pointer over particles', () => {
  const near = { x: 230, y: 100, opacity: 0.5 }
  const far = { x: 200 + RADIUS, y: 100, opacity: 0.5 }

  it('parts those that are near, and leaves alone those that are not', () => {
    const [one, other] = reacted('part', [near, far])
    expect(one!.x).toBeGreaterThan(near.x + 20)
    expect(one!.y).toBe(near.y)
    expect(other).toEqual(far)
  })
  it('gathers them', () => {
    const [one] = reacted('gather', [near])
    expect(one!.x).toBeLessThan(near.x)
    expect(one!.x).toBeGreaterThan(200)
  })
  it('brightens them, never beyond full', () => {
    const [one, other] = reacted('brighten', [near, { ...near, opacity: 0.9 }])
    expect(one!.opacity).toBeGreaterThan(0.8)
    expect(other!.opacity).toBe(1)
    expect(one!.x).toBe(near.x)
  })
  it('becomes a point that links reach', () => {
    const [one, pointer] = reacted('link', [near])
    expect(one).toEqual(near)
    expect([pointer!.x, pointer!.y]).toEqual([200, 100])
    expect(pointer!.opacity).toBeCloseTo(1, 2)
  })
  it('is as strong as it is told', () => {
    const shift = (strength: number): number => reacted('part', [near], { strength })[0]!.x - near.x
    expect(shift(0.5)).toBeCloseTo(shift(1) / 2, 1)
    expect(shift(0)).toBe(0)
  })
  it('does nothing by touch', () =>
    expect(reacted('part', [near], { pointerType: 'touch' })).toEqual([near]))
  it('leaves nothing behind when it is gone', () => {
    const [one] = reacted('part', [near], { leaves: true })
    expect(Math.abs(one!.x - near.x)).toBeLessThan(0.01)
  })
  it('never divides by nothing where it is on an element', () => {
    for (const reaction of ['part', 'gather', 'brighten', 'link'] as const)
      for (const { x, y, opacity } of reacted(reaction, [{ x: 200, y: 100, opacity: 1 }]))
        expect([x, y, opacity].every(Number.isFinite)).toBe(true)
  })
})

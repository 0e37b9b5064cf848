import { describe, expect, it } from 'vitest'
import type { Composed } from '../compose/composeFrame'
import { PosterPictures } from './PosterPictures'

const picture = (bytes: number): Composed =>
  ({ picture: { width: 2, height: 2, data: { byteLength: bytes } } }) as unknown as Composed

/** Pictures of `bytes` each; counts what is made. */
function pictures(bytes: number) {
  const held = new PosterPictures()
  const made: string[] = []
  const find = (key: string): Promise<Composed> =>
    held.find(key, () => {
      made.push(key)
      return Promise.resolve(picture(bytes))
    })
  return { find, made }
}

describe('composed pictures', () => {
  it('are made once, and kept for other formats', async () => {
    const { find, made } = pictures(1000)
    const first = await find('a')
    await find('b')
    expect(await find('a')).toBe(first)
    expect(made).toEqual(['a', 'b'])
  })
  it('make room for new ones, those unused for longest first', async () => {
    const { find, made } = pictures(40_000_000)
    await find('a')
    await find('b')
    await find('a')
    await find('c')
    expect(made).toEqual(['a', 'b', 'c'])
    await find('a')
    await find('b')
    expect(made).toEqual(['a', 'b', 'c', 'b'])
  })
  it('are given even where one alone is larger than what is kept', async () => {
    const { find, made } = pictures(400_000_000)
    await find('a')
    await find('a')
    await find('b')
    await find('a')
    expect(made).toEqual(['a', 'b', 'a'])
  })
})

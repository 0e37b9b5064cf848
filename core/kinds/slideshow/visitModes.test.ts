import { describe, expect, it } from 'vitest'
import { inventBackdrop, SAMPLE_SOURCE_ID } from '../../testing/samples'
import { createSlideshow, type Slideshow } from './Slideshow'
import { visitModes } from './visitModes'

const { behaviour } = inventBackdrop()
const show = createSlideshow(Array.from({ length: 4 }, () => SAMPLE_SOURCE_ID))
const downloads = (
  fields: Partial<Slideshow>,
  more: Partial<typeof behaviour> = {},
): Record<string, readonly (readonly number[])[]> =>
  Object.fromEntries(
    visitModes({ base: { ...show, ...fields }, behaviour: { ...behaviour, ...more } }).map(
      ({ name, slides }) => [name, slides],
    ),
  )

describe('what visits download', () => {
  it('is the first slide and the next, then all one after another, or the first where it is to be saved', () => {
    expect(downloads({})).toEqual({
      'First view': [[0, 1]],
      'Whole cycle': [[0, 1, 2, 3]],
      'Without script': [[0, 1, 2, 3]],
      'Reduced motion': [[0]],
      'Data saver': [[0]],
    })
  })
  it('is the first and one other where one is shown a visit, and the first without script', () => {
    const others = [
      [0, 1],
      [0, 2],
      [0, 3],
    ]
    expect(downloads({ order: 'visit' })).toEqual({
      'First view': others,
      'The rest of the visit': others,
      'Without script': [[0]],
      'Reduced motion': [[0]],
      'Data saver': [[0]],
    })
    expect(downloads({ order: 'shuffled' })['First view']).toEqual(others)
  })
  it('is all of it where nothing is to be saved, and little on phones that stand still', () => {
    const given = downloads({}, { reducedMotion: 'play', dataSaver: 'play', phone: 'poster' })
    expect(given['Reduced motion']).toEqual([[0, 1, 2, 3]])
    expect(given['Data saver']).toEqual([[0, 1, 2, 3]])
    expect(given['Phones']).toEqual([[0]])
  })
  it('holds every tile from the beginning: browsers do not wait with backgrounds', () => {
    const slides = show.slides.map((slide, index) =>
      index === 2 ? { ...slide, placing: 'tile' as const } : slide,
    )
    expect(downloads({ slides })['First view']).toEqual([[0, 2, 1]])
    expect(downloads({ slides })['Data saver']).toEqual([[0, 2]])
  })
})

import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { SlideshowAction } from '../../../core/kinds/slideshow/reduceSlideshow'
import { useNotices } from '../../state/noticeStore'
import { useUploads, type UploadItem } from '../../state/uploadStore'
import { followDropped, useDroppedSlides } from './droppedSlides'

let taken: SlideshowAction[]
let stop: () => void
let room: number

const item = (id: string, fields: Partial<UploadItem>): UploadItem => ({
  id,
  projectId: 'p',
  name: `${id}.jpg`,
  bytes: 1,
  state: 'sending',
  sent: 0,
  rate: null,
  facts: null,
  message: null,
  sourceId: null,
  ...fields,
})
const image = { kind: 'image' } as UploadItem['facts']
const clip = { kind: 'clip' } as UploadItem['facts']
const done = (id: string, facts = image): UploadItem =>
  item(id, { state: 'done', facts, sourceId: `source-${id}` })
const show = (...items: UploadItem[]): void => useUploads.setState({ items })
const noticesNow = (): string[] => useNotices.getState().notices.map(({ text }) => text)

beforeEach(() => {
  taken = []
  room = 20
  useNotices.setState({ notices: [] })
  useUploads.setState({ items: [] })
  stop = followDropped(
    () => room,
    (action) => taken.push(action),
  )
  useDroppedSlides.setState({ waiting: ['a', 'b', 'c'] })
})
afterEach(() => stop())

describe('images dropped onto slides', () => {
  it('become slides in one step, in their order, once all have arrived', () => {
    show(item('a', {}), item('b', {}), done('c'))
    // A finished upload is taken off the list.
    show(item('a', { state: 'checking' }), done('b'))
    expect(taken).toEqual([])
    show(done('a'))
    expect(taken).toEqual([{ type: 'slides/add', sourceIds: ['source-a', 'source-b', 'source-c'] }])
    expect(useDroppedSlides.getState().waiting).toEqual([])
    show()
    expect(taken).toHaveLength(1)
  })
  it('follow later where an upload has failed and is tried again', () => {
    show(item('a', { state: 'failed' }), done('b'), done('c'))
    expect(taken).toEqual([{ type: 'slides/add', sourceIds: ['source-b', 'source-c'] }])
    show(item('a', { state: 'sending' }))
    show(done('a'))
    expect(taken[1]).toEqual({ type: 'slides/add', sourceIds: ['source-a'] })
  })
  it('leave out what was refused or cancelled, and clips, and say so', () => {
    show(item('a', { state: 'refused' }), done('b', clip))
    expect(taken).toEqual([])
    expect(noticesNow()).toEqual(['A clip cannot be a slide. It is on the shelf.'])
    expect(useDroppedSlides.getState().waiting).toEqual([])
  })
  it('say where there is no room for all of them', () => {
    room = 2
    show(done('a'), done('b'), done('c'))
    expect(taken).toHaveLength(1)
    expect(noticesNow()[0]).toContain('only the first 2 became slides')
  })
  it('are forgotten when another backdrop is opened', () => {
    show(item('a', {}))
    stop()
    show(done('a'), done('b'), done('c'))
    expect(taken).toEqual([])
    expect(useDroppedSlides.getState().waiting).toEqual([])
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FACTS, inventBackdrop, reduced as reduce } from '../testing/samples'
import { EMPTY_HISTORY, record, redo, undo } from './history'
import { type BackdropAction } from './reduce'
import { reachableDocuments, sourcesInHistory, usedSources } from './usedSources'

const DOCUMENT = inventBackdrop()
const id = (mark: number): string => `7b1f8c1e-0000-4000-8000-${String(mark).padStart(12, '0')}`
const swap = (mark: number): BackdropAction => ({
  type: 'material/swap',
  sourceId: id(mark),
  facts: FACTS,
})
const poster = (mark: number): BackdropAction => ({
  type: 'poster/picture',
  picture: {
    kind: 'source',
    sourceId: id(mark),
    sha256: String(mark % 10).repeat(64),
    mime: 'image/webp',
    bytes: 1000,
  },
})

describe('the sources a document uses', () => {
  it('are its clip, and the image its poster is made from with the content it names', () => {
    expect(usedSources(DOCUMENT)).toEqual([
      { sourceId: DOCUMENT.base.material.sourceId, sha256: null },
    ])
    expect(usedSources(reduce(DOCUMENT, poster(3)))).toEqual([
      { sourceId: DOCUMENT.base.material.sourceId, sha256: null },
      { sourceId: id(3), sha256: '3'.repeat(64) },
    ])
  })
})

it('undo and redo reach exactly the sources that the text of their steps and the document name', () => {
  const action = fc.oneof(
    fc.integer({ min: 2, max: 8 }).map(swap),
    fc.integer({ min: 11, max: 15 }).map(poster),
  )
  fc.assert(
    fc.property(fc.array(action, { maxLength: 10 }), fc.nat({ max: 10 }), (actions, undone) => {
      let here = { document: DOCUMENT, history: EMPTY_HISTORY }
      for (const each of actions) {
        const next = reduce(here.document, each)
        here = { document: next, history: record(here.history, 'x', null, here.document, next) }
      }
      for (let step = 0; step < undone; step++) here = undo(here.history, here.document) ?? here
      const reached = new Set(
        sourcesInHistory(here.document, here.history).map((use) => use.sourceId),
      )
      // The slow way: every id that stands anywhere in the steps, each of which undo or redo puts
      // back.
      const named = new Set(JSON.stringify(here.history).match(/7b1f8c1e-[0-9a-f-]{27}/g) ?? [])
      expect(
        [...named].filter(
          (each) =>
            !reached.has(each) && !usedSources(here.document).some((use) => use.sourceId === each),
        ),
      ).toEqual([])
      expect(reachableDocuments(here.document, here.history)).toHaveLength(
        here.history.past.length + here.history.future.length,
      )
      // And the other way round: no source is reached that is not named there or in the document.
      for (const each of reached)
        expect(named.has(each) || JSON.stringify(here.document).includes(each)).toBe(true)
      expect(redo(EMPTY_HISTORY, here.document)).toBeNull()
    }),
    { seed: 7, numRuns: 80 },
  )
})

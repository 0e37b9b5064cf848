import 'fake-indexeddb/auto'
import { describe, expect, it } from 'vitest'
import { EMPTY_HISTORY } from '../../core/backdrop/history'
import { inventBackdrop } from '../../core/testing/samples'
import { StoredJournal, type JournalEntry } from './editJournal'
import { FakeLocks } from './testing/FakeLocks'

const entry = (backdropId: string, heading: string, atMs = 1): JournalEntry => {
  const document = { ...inventBackdrop(), copy: { ...inventBackdrop().copy, heading } }
  return {
    backdropId,
    unacknowledged: null,
    latest: { baseRevision: 1, label: 'heading', document, history: EMPTY_HISTORY },
    atMs,
  }
}
const headingOf = (found: JournalEntry | null): string | undefined =>
  found?.latest?.document.copy.heading

let databases = 0
/** A browser with tabs that share storage and locks. */
function browser() {
  const locks = new FakeLocks()
  const name = `edits-${++databases}`
  let tabs = 0
  return {
    tab: () => {
      const id = `tab${++tabs}`
      return {
        journal: new StoredJournal(locks, id, name),
        close: () => locks.release(`telon-tab-${id}`),
      }
    },
  }
}

describe('edits in storage', () => {
  it('of a tab that is open belong to it; of a closed one to whoever takes them over first', async () => {
    const { tab } = browser()
    const [first, second, third] = [tab(), tab(), tab()]
    first.journal.write(entry('a', 'Mine'))
    await first.journal.settled()
    expect([await second.journal.adopt('a'), await second.journal.orphaned()]).toEqual([null, []])
    first.close()
    expect(await second.journal.orphaned()).toEqual(['a'])
    const both = await Promise.all([second.journal.adopt('a'), third.journal.adopt('a')])
    expect(both.map(headingOf)).toEqual(['Mine', undefined])
    expect(await third.journal.orphaned()).toEqual([])
    second.close()
    expect(headingOf(await third.journal.adopt('a'))).toBe('Mine')
  })
  it('that were taken over and given back are there for the next, beside those of the tab that gave them', async () => {
    const { tab } = browser()
    const [closed, busy] = [tab(), tab()]
    closed.journal.write(entry('a', 'Left behind'))
    await closed.journal.settled()
    closed.close()
    const taken = await busy.journal.adopt('a')
    busy.journal.write(entry('a', 'Of the busy tab', 2))
    await busy.journal.giveBack(taken!)
    await busy.journal.settled()
    expect(headingOf(await busy.journal.adopt('a'))).toBe('Left behind')
  })
  it('keep the newest state of each backdrop, and forget what was acknowledged', async () => {
    const { tab } = browser()
    const [writer, reader] = [tab(), tab()]
    for (let turn = 0; turn < 50; turn++) writer.journal.write(entry('a', `Turn ${turn}`, turn))
    writer.journal.write(entry('b', 'Other'))
    writer.journal.write(entry('c', 'Done'))
    writer.journal.remove('c')
    await writer.journal.settled()
    writer.close()
    expect((await reader.journal.orphaned()).sort()).toEqual(['a', 'b'])
    expect(headingOf(await reader.journal.adopt('a'))).toBe('Turn 49')
  })
  it('of several closed tabs are taken over newest first, and none is lost', async () => {
    const { tab } = browser()
    const [older, newer, reader] = [tab(), tab(), tab()]
    older.journal.write(entry('a', 'Older', 1))
    newer.journal.write(entry('a', 'Newer', 2))
    await Promise.all([older.journal.settled(), newer.journal.settled()])
    older.close()
    newer.close()
    expect(headingOf(await reader.journal.adopt('a'))).toBe('Newer')
    expect(await reader.journal.orphaned()).toEqual(['a'])
  })
})

import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { StoreApi } from 'zustand/vanilla'
import { createBackdropStore, type BackdropState } from './backdropStore'
import { MemoryJournal } from './editJournal'
import { FakeServer } from './testing/FakeServer'

const A = '7b1f8c1e-0000-4000-8000-00000000000a'
const B = '7b1f8c1e-0000-4000-8000-00000000000b'

let a: FakeServer
let b: FakeServer
let journal: MemoryJournal
let store: StoreApi<BackdropState>

/** Two backdrops on one server; every one can be slow by itself. */
const serverOf = (id: string): FakeServer => (id === A ? a : b)
const make = (): StoreApi<BackdropState> =>
  createBackdropStore(
    {
      readBackdrop: (id) => serverOf(id).api.readBackdrop(),
      saveBackdrop: (id, save) => serverOf(id).api.saveBackdrop(id, save),
      createBackdrop: () => b.api.createBackdrop(),
      readRevision: (id, revision) => serverOf(id).api.readRevision(id, revision),
    },
    journal,
  )
beforeEach(() => {
  vi.useFakeTimers()
  a = new FakeServer(A)
  b = new FakeServer(B)
  journal = new MemoryJournal()
  store = make()
})
afterEach(() => vi.useRealTimers())

const heading = (value: string): void =>
  store.getState().dispatch({ type: 'copy/write', field: 'heading', value })
const shown = (): string | undefined => store.getState().document?.copy.heading
const settle = (ms = 0): Promise<unknown> => vi.advanceTimersByTimeAsync(ms)

describe('opening', () => {
  it('shows the backdrop that was asked for last, whichever answer comes first', async () => {
    a.hold()
    void store.getState().open(A)
    b.document = { ...b.document, copy: { ...b.document.copy, heading: 'B' } }
    await store.getState().open(B)
    expect([store.getState().record?.id, shown()]).toEqual([B, 'B'])
    a.letGo()
    await settle()
    expect([store.getState().record?.id, shown()]).toEqual([B, 'B'])
  })
  it('of another backdrop right after a change saves the change', async () => {
    await store.getState().open(A)
    heading('Last word')
    await store.getState().open(B)
    await settle(100)
    expect([a.document.copy.heading, a.revision, store.getState().record?.id]).toEqual([
      'Last word',
      2,
      B,
    ])
  })
  it('goes on saving a backdrop that was left while the server was away', async () => {
    await store.getState().open(A)
    a.failWith(() => new Error('down'))
    heading('Kept')
    await settle(600)
    await store.getState().open(B)
    a.failWith(null)
    await store.getState().open(A)
    expect(shown()).toBe('Kept')
    heading('Kept, too')
    await settle(600)
    expect([a.document.copy.heading, store.getState().save]).toEqual(['Kept, too', 'saved'])
  })
  it('of the same backdrop again keeps what is not acknowledged, and takes what is new otherwise', async () => {
    await store.getState().open(A)
    heading('Mine')
    await store.getState().open(A)
    expect(shown()).toBe('Mine')
    await settle(600)
    expect(a.document.copy.heading).toBe('Mine')
    a.saveFromElsewhere('Theirs')
    await store.getState().open(A)
    expect([shown(), store.getState().save]).toEqual(['Theirs', 'saved'])
  })
  it('tells why it failed, and works when it is tried again', async () => {
    const real = a.api.readBackdrop
    a.api.readBackdrop = () => Promise.reject(new Error('The server does not answer.'))
    await store.getState().open(A)
    expect([store.getState().problem, store.getState().document]).toEqual([
      'The server does not answer.',
      null,
    ])
    a.api.readBackdrop = real
    await store.getState().open(A)
    expect([store.getState().problem, store.getState().record?.id]).toEqual([null, A])
  })
})

describe('what a closed tab left behind', () => {
  it('is sent at the next start, also where no one opens the backdrop', async () => {
    await store.getState().open(A)
    heading('Left behind')
    vi.clearAllTimers()
    store = make()
    await settle(10)
    expect([a.document.copy.heading, a.revision, journal.entries.size]).toEqual([
      'Left behind',
      2,
      0,
    ])
  })
  it('is there when the backdrop is opened at once', async () => {
    await store.getState().open(A)
    heading('Left behind')
    vi.clearAllTimers()
    store = make()
    await store.getState().open(A)
    expect(shown()).toBe('Left behind')
    await settle(600)
    expect([a.document.copy.heading, a.revision, store.getState().save]).toEqual([
      'Left behind',
      2,
      'saved',
    ])
  })
  it('is taken up also where that tab is known as closed only after the backdrop was opened here', async () => {
    const closing = make()
    await closing.getState().open(A)
    closing.getState().dispatch({ type: 'copy/write', field: 'heading', value: 'Left behind' })
    const entry = journal.entries.get(A)!
    journal.remove(A)
    vi.clearAllTimers()
    store = make()
    await store.getState().open(A)
    a.saveFromElsewhere('From elsewhere')
    journal.write(entry)
    await settle(5_000)
    const { save, theirs } = store.getState()
    expect([shown(), save, theirs?.document.copy.heading]).toEqual([
      'Left behind',
      'conflict',
      'From elsewhere',
    ])
  })
})

describe('an answer that comes late', () => {
  it('does not bring back what was changed and saved here meanwhile', async () => {
    await store.getState().open(A)
    const old = a.record()
    let answer: (record: typeof old) => void = () => undefined
    vi.spyOn(a.api, 'readBackdrop').mockReturnValueOnce(
      new Promise((resolve) => (answer = resolve)),
    )
    void store.getState().open(A)
    heading('Changed meanwhile')
    await settle(600)
    expect(a.revision).toBe(2)
    answer(old)
    await settle(100)
    expect([shown(), a.document.copy.heading, store.getState().save]).toEqual([
      'Changed meanwhile',
      'Changed meanwhile',
      'saved',
    ])
    heading('And again')
    await settle(600)
    expect([a.revision, store.getState().save]).toEqual([3, 'saved'])
  })
  it('with what a closed tab left behind does not take the place of an edit made in that moment', async () => {
    await store.getState().open(A)
    heading('Left behind')
    const entry = journal.entries.get(A)!
    vi.clearAllTimers()
    journal.remove(A)
    let take: (found: typeof entry) => void = () => undefined
    const given: unknown[] = []
    journal.adopt = () => new Promise((resolve) => (take = resolve))
    journal.giveBack = async (left) => void given.push(left)
    store = make()
    const opening = store.getState().open(A)
    await settle()
    take(null as never)
    await opening
    void store.getState().open(A)
    await settle()
    heading('Mine')
    take(entry)
    await settle(600)
    expect([shown(), a.document.copy.heading, store.getState().save, given]).toEqual([
      'Mine',
      'Mine',
      'saved',
      [entry],
    ])
  })
})

describe('an earlier revision', () => {
  it('is looked at without changing anything, and restored as one step that can be undone', async () => {
    await store.getState().open(A)
    heading('Now')
    await settle(600)
    await store.getState().view(1)
    expect(store.getState().viewed?.document.copy.heading).toBe('Of revision 1')
    heading('Not now')
    store.getState().undo()
    expect([shown(), a.revision]).toEqual(['Now', 2])
    store.getState().restoreViewed()
    expect([shown(), store.getState().viewed]).toEqual(['Of revision 1', null])
    await settle(600)
    expect([a.document.copy.heading, a.revision, a.saves.at(-1)!.label]).toEqual([
      'Of revision 1',
      3,
      'restore revision 1',
    ])
    store.getState().undo()
    expect(shown()).toBe('Now')
  })
  it('is closed by opening another backdrop, and does not come up late there', async () => {
    await store.getState().open(A)
    a.hold()
    void store.getState().view(1)
    await store.getState().open(B)
    a.letGo()
    await settle()
    expect(store.getState().viewed).toBeNull()
  })
})

describe('a conflict', () => {
  it('can be settled by keeping both: this version as a copy, the other one here', async () => {
    await store.getState().open(A)
    a.saveFromElsewhere('Theirs')
    heading('Mine')
    await settle(600)
    expect(store.getState().save).toBe('conflict')
    const id = await store.getState().saveAsCopy()
    expect([id, b.document.copy.heading, shown(), store.getState().save]).toEqual([
      '7b1f8c1e-0000-4000-8000-0000000000b9',
      'Mine',
      'Theirs',
      'saved',
    ])
  })
})

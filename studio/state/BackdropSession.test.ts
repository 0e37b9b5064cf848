import { DOCUMENT_VERSION } from '../../core/backdrop/BackdropDocument'
import { asVersion4 } from '../../core/testing/olderDocuments'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { BackdropRecord, BackdropSave } from '../../core/api/wire'
import type { EMPTY_HISTORY } from '../../core/backdrop/history'
import { inventBackdrop, asFootage } from '../../core/testing/samples'
import { RequestError } from '../api/client'
import { BackdropSession } from './BackdropSession'
import { MemoryJournal } from './editJournal'
import { FakeServer } from './testing/FakeServer'

let server: FakeServer
let journal: MemoryJournal
beforeEach(() => {
  vi.useFakeTimers()
  server = new FakeServer()
  journal = new MemoryJournal()
})
afterEach(() => vi.useRealTimers())

const open = (record: BackdropRecord = server.record()): BackdropSession =>
  new BackdropSession(record, { api: server.api, journal, onChange: () => undefined })
const heading = (session: BackdropSession, value: string): void =>
  session.dispatch({ type: 'copy/write', field: 'heading', value })
const settle = (): Promise<unknown> => vi.advanceTimersByTimeAsync(0)
const unreachable = (): RequestError =>
  new RequestError('server/unreachable', 'The server does not answer.')

describe('a backdrop that is open', () => {
  it('saves a run of changes once, half a second after the last', async () => {
    const session = open()
    heading(session, 'One')
    await vi.advanceTimersByTimeAsync(400)
    heading(session, 'Two')
    await vi.advanceTimersByTimeAsync(400)
    expect([server.saves.length, session.state.save]).toEqual([0, 'pending'])
    await vi.advanceTimersByTimeAsync(200)
    expect(server.saves.map((save) => save.document.copy.heading)).toEqual(['Two'])
    expect([session.state.save, session.state.record.revision, session.isClean]).toEqual([
      'saved',
      2,
      true,
    ])
  })

  it('never has two saves on their way: what is changed meanwhile follows', async () => {
    server.hold()
    const session = open()
    heading(session, 'One')
    await vi.advanceTimersByTimeAsync(600)
    heading(session, 'Two')
    await vi.advanceTimersByTimeAsync(2000)
    void session.flush()
    expect([server.waiting, session.state.save]).toEqual([1, 'pending'])
    server.letGo()
    await settle()
    expect(server.document.copy.heading).toBe('Two')
    expect([server.revision, session.state.save, session.state.theirs]).toEqual([3, 'saved', null])
  })

  it('undoes, redoes and saves either, under the label of the last step', async () => {
    const session = open()
    heading(session, 'One')
    session.undo()
    session.undo()
    session.redo()
    await vi.advanceTimersByTimeAsync(600)
    expect(server.saves.map((save) => [save.label, save.document.copy.heading])).toEqual([
      ['heading', 'One'],
    ])
  })

  it('does not touch the journal or the server for changes that change nothing', async () => {
    const session = open()
    heading(session, session.state.document.copy.heading)
    await vi.advanceTimersByTimeAsync(1000)
    expect([server.saves.length, journal.entries.size, session.state.save]).toEqual([0, 0, 'saved'])
  })

  it('takes what the server has only while everything here is acknowledged', async () => {
    const session = open()
    const newer = {
      ...server.record(),
      revision: 7,
      document: { ...inventBackdrop(), copy: { ...inventBackdrop().copy, heading: 'Theirs' } },
    }
    heading(session, 'Mine')
    session.refresh(newer)
    expect(session.state.document.copy.heading).toBe('Mine')
    await vi.advanceTimersByTimeAsync(600)
    session.refresh(newer)
    expect(session.state.document.copy.heading).toBe('Theirs')
  })
})

describe('a save whose answer is lost', () => {
  it('is sent again under the same id before anything newer, and is one revision', async () => {
    const session = open()
    server.loseNextAnswer()
    heading(session, 'One')
    await vi.advanceTimersByTimeAsync(600)
    expect([session.state.save, session.state.problem]).toEqual([
      'failed',
      'The server does not answer.',
    ])
    heading(session, 'Two')
    await vi.advanceTimersByTimeAsync(600)
    expect(server.saves.map((save) => save.document.copy.heading)).toEqual(['One', 'One', 'Two'])
    expect(server.saves[0]!.saveId).toBe(server.saves[1]!.saveId)
    expect([
      server.revision,
      session.state.save,
      session.state.theirs,
      session.state.problem,
    ]).toEqual([3, 'saved', null, null])
  })

  it('is tried again by itself, less and less often, until the server is back', async () => {
    const session = open()
    server.failWith(unreachable)
    heading(session, 'One')
    await vi.advanceTimersByTimeAsync(500)
    const tries: number[] = []
    for (let second = 0; second < 60; second++) {
      await vi.advanceTimersByTimeAsync(1000)
      tries.push(server.saves.length)
    }
    expect([tries[1], tries[5], tries[13], tries[59]]).toEqual([2, 3, 4, 6])
    server.failWith(null)
    await vi.advanceTimersByTimeAsync(31_000)
    expect([session.state.save, server.revision]).toEqual(['saved', 2])
  })

  it('stays pending through a sign-in that is missing', async () => {
    const session = open()
    server.failWith(() => new RequestError('access/sign-in', 'Sign in to continue.', 401))
    heading(session, 'One')
    await vi.advanceTimersByTimeAsync(600)
    expect([session.state.save, journal.entries.size]).toEqual(['failed', 1])
    server.failWith(null)
    await session.flush()
    expect([session.state.save, server.document.copy.heading]).toEqual(['saved', 'One'])
  })
})

describe('a save that is refused', () => {
  it('is not sent again as it is; the next change is a new one', async () => {
    const session = open()
    server.failWith(
      () => new RequestError('backdrop/unknown-source', 'The backdrop refers to …', 422),
    )
    heading(session, 'One')
    await vi.advanceTimersByTimeAsync(60_000)
    expect([server.saves.length, session.state.save]).toEqual([1, 'failed'])
    server.failWith(null)
    heading(session, 'Two')
    await vi.advanceTimersByTimeAsync(600)
    expect([server.saves.length, server.document.copy.heading, session.state.save]).toEqual([
      2,
      'Two',
      'saved',
    ])
    expect(server.saves[0]!.saveId).not.toBe(server.saves[1]!.saveId)
  })
})

describe('a conflict', () => {
  const conflicted = async (): Promise<BackdropSession> => {
    const session = open()
    server.saveFromElsewhere('Theirs')
    heading(session, 'Mine')
    await vi.advanceTimersByTimeAsync(600)
    expect([
      session.state.save,
      session.state.theirs?.document.copy.heading,
      session.state.document.copy.heading,
    ]).toEqual(['conflict', 'Theirs', 'Mine'])
    return session
  }
  it('waits for the designer, whatever is changed meanwhile', async () => {
    const session = await conflicted()
    heading(session, 'Mine too')
    await vi.advanceTimersByTimeAsync(10_000)
    expect([session.state.save, server.saves.length, server.document.copy.heading]).toEqual([
      'conflict',
      1,
      'Theirs',
    ])
  })
  it('ends with this tab’s version as the next revision', async () => {
    const session = await conflicted()
    await session.keepMine()
    expect([session.state.save, server.document.copy.heading, server.revision]).toEqual([
      'saved',
      'Mine',
      3,
    ])
  })
  it('ends with the other tab’s version, and ours one undo away', async () => {
    const session = await conflicted()
    session.takeTheirs()
    await vi.advanceTimersByTimeAsync(600)
    expect([session.state.document.copy.heading, session.state.save, session.state.theirs]).toEqual(
      ['Theirs', 'saved', null],
    )
    session.undo()
    expect(session.state.document.copy.heading).toBe('Mine')
    await vi.advanceTimersByTimeAsync(600)
    expect(server.document.copy.heading).toBe('Mine')
  })
  it('is forgotten where this version lives on as a copy', async () => {
    const session = await conflicted()
    session.leaveToTheirs()
    expect([session.state.document.copy.heading, session.isClean, journal.entries.size]).toEqual([
      'Theirs',
      true,
      0,
    ])
  })
})

describe('the journal', () => {
  it('holds exactly what is not acknowledged', async () => {
    const session = open()
    heading(session, 'One')
    expect(journal.entries.get(session.state.record.id)).toMatchObject({
      unacknowledged: null,
      latest: { baseRevision: 1, document: { copy: { heading: 'One' } } },
    })
    server.hold()
    await vi.advanceTimersByTimeAsync(600)
    heading(session, 'Two')
    expect(journal.entries.get(session.state.record.id)).toMatchObject({
      unacknowledged: { baseRevision: 1, document: { copy: { heading: 'One' } } },
      latest: { document: { copy: { heading: 'Two' } } },
    })
    server.letGo()
    await settle()
    expect(journal.entries.size).toBe(0)
  })

  const left = (): ReturnType<MemoryJournal['entries']['get']> => [...journal.entries.values()][0]
  it('sends what a closed tab left behind', async () => {
    const closed = open()
    heading(closed, 'Left behind')
    const entry = left()!
    const session = BackdropSession.resume(server.record(), entry, {
      api: server.api,
      journal,
      onChange: () => undefined,
    })
    expect(session.state.document.copy.heading).toBe('Left behind')
    await settle()
    expect([session.state.save, server.document.copy.heading, server.revision]).toEqual([
      'saved',
      'Left behind',
      2,
    ])
  })
  it('knows a save again that had arrived before the tab was closed, and sends what followed', async () => {
    server.loseNextAnswer()
    const closed = open()
    heading(closed, 'One')
    await vi.advanceTimersByTimeAsync(600)
    heading(closed, 'Two')
    const entry = left()!
    vi.clearAllTimers()
    const session = BackdropSession.resume(server.record(), entry, {
      api: server.api,
      journal,
      onChange: () => undefined,
    })
    await settle()
    expect([session.state.save, server.document.copy.heading, server.revision]).toEqual([
      'saved',
      'Two',
      3,
    ])
  })
  it('takes what others saved since, where all that was left behind had arrived', async () => {
    server.loseNextAnswer()
    const closed = open()
    heading(closed, 'One')
    await vi.advanceTimersByTimeAsync(600)
    const entry = left()!
    vi.clearAllTimers()
    server.saveFromElsewhere('Theirs')
    const session = BackdropSession.resume(server.record(), entry, {
      api: server.api,
      journal,
      onChange: () => undefined,
    })
    await settle()
    const { save, document, record } = session.state
    expect([save, document.copy.heading, record.revision]).toEqual(['saved', 'Theirs', 3])
    heading(session, 'Mine again')
    await vi.advanceTimersByTimeAsync(600)
    expect([session.state.save, server.document.copy.heading, server.revision]).toEqual([
      'saved',
      'Mine again',
      4,
    ])
  })
  it('opens as a conflict where the revision has moved on', async () => {
    const closed = open()
    heading(closed, 'Left behind')
    const entry = left()!
    vi.clearAllTimers()
    server.saveFromElsewhere('Theirs')
    const session = BackdropSession.resume(server.record(), entry, {
      api: server.api,
      journal,
      onChange: () => undefined,
    })
    await settle()
    expect([
      session.state.save,
      session.state.theirs?.document.copy.heading,
      session.state.document.copy.heading,
    ]).toEqual(['conflict', 'Theirs', 'Left behind'])
  })
  it('upgrades what an older studio left behind', async () => {
    const closed = open()
    heading(closed, 'Old')
    const entry = left()!
    vi.clearAllTimers()
    const old = asVersion4(asFootage(entry.latest!.document)) as unknown as BackdropSave['document']
    const session = BackdropSession.resume(
      server.record(),
      {
        ...entry,
        latest: {
          ...entry.latest!,
          document: old,
          history: { past: [], future: [] } as unknown as typeof EMPTY_HISTORY,
        },
      },
      { api: server.api, journal, onChange: () => undefined },
    )
    await settle()
    expect([session.state.save, server.document.version, server.document.copy.heading]).toEqual([
      'saved',
      DOCUMENT_VERSION,
      'Old',
    ])
  })
})

import type { BackdropRecord, BackdropSave, OpenRevision } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { EMPTY_HISTORY } from '../../../core/backdrop/history'
import { inventBackdrop } from '../../../core/testing/samples'
import { RequestError } from '../../api/client'

const ID = '7b1f8c1e-0000-4000-8000-0000000000b1'
const WHEN = '2026-11-27T08:00:00.000Z'
const named = (id: string) => ({ id, name: id })

/**
 * The server as the stores see it, kept in memory: one backdrop by the rules of the real one (a
 * save stands on the revision it names, and the same save is one revision). Answers can be held
 * back, lost or replaced by errors.
 */
export class FakeServer {
  readonly id: string
  revision = 1
  document: BackdropDocument = inventBackdrop()
  /** Every save that has arrived, also those whose answer was lost. */
  readonly saves: BackdropSave[] = []
  private readonly known = new Map<string, number>()
  private held: (() => void)[] | null = null
  private losing = false
  private failure: (() => Error) | null = null

  constructor(id: string = ID) {
    this.id = id
  }

  /** Answers that are held back. */
  get waiting(): number {
    return this.held?.length ?? 0
  }

  hold(): void {
    this.held ??= []
  }

  letGo(): void {
    const held = this.held ?? []
    this.held = null
    held.forEach((release) => release())
  }

  loseNextAnswer(): void {
    this.losing = true
  }

  failWith(failure: (() => Error) | null): void {
    this.failure = failure
  }

  saveFromElsewhere(heading: string): void {
    this.document = { ...this.document, copy: { ...this.document.copy, heading } }
    this.revision += 1
  }

  record(): BackdropRecord {
    const { id, revision, document } = this
    return {
      id,
      name: 'Dusk',
      revision,
      document,
      history: EMPTY_HISTORY,
      updatedAt: WHEN,
      project: named('7b1f8c1e-0000-4000-8000-0000000000c1'),
      page: named('7b1f8c1e-0000-4000-8000-0000000000c2'),
      spot: named('7b1f8c1e-0000-4000-8000-0000000000c3'),
    }
  }

  readonly api = {
    readBackdrop: async (): Promise<BackdropRecord> => {
      const record = this.record()
      await this.answering()
      return record
    },
    saveBackdrop: async (
      _id: string,
      save: BackdropSave,
    ): Promise<{ revision: number; updatedAt: string }> => {
      this.saves.push(save)
      if (this.failure) throw this.failure()
      const known = this.known.get(save.saveId)
      if (known === undefined && save.baseRevision !== this.revision) {
        throw new RequestError(
          'backdrop/conflict',
          'This backdrop was changed in another tab.',
          409,
          this.record(),
        )
      }
      if (known === undefined) {
        this.revision += 1
        this.document = save.document
        this.known.set(save.saveId, this.revision)
      }
      const revision = known ?? this.revision
      await this.answering()
      if (this.losing) {
        this.losing = false
        throw new RequestError('server/unreachable', 'The server does not answer.')
      }
      return { revision, updatedAt: WHEN }
    },
    createBackdrop: async (): Promise<BackdropRecord> => ({
      ...this.record(),
      id: '7b1f8c1e-0000-4000-8000-0000000000b9',
      revision: 1,
    }),
    readRevision: async (_id: string, revision: number): Promise<OpenRevision> => {
      await this.answering()
      return {
        revision,
        label: 'heading',
        createdAt: WHEN,
        document: {
          ...inventBackdrop(),
          copy: { ...inventBackdrop().copy, heading: `Of revision ${revision}` },
        },
      }
    },
  }

  private answering(): Promise<void> {
    const { held } = this
    return held ? new Promise((resolve) => held.push(resolve)) : Promise.resolve()
  }
}

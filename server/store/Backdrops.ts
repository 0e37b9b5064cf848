import type { Transaction } from 'sequelize'
import { baseOf } from '../../core/api/baseOf'
import { pictureOf } from '../../core/api/knownSource'
import { settingsSchema } from '../../core/api/settings'
import {
  heightSchema,
  isClip,
  type BackdropOrder,
  type BackdropRecord,
  type BackdropSave,
  type OpenRevision,
  type Revision,
  type Source,
} from '../../core/api/wire'
import {
  backdropSchema,
  parseBackdrop,
  type BackdropDocument,
} from '../../core/backdrop/BackdropDocument'
import { createBackdrop } from '../../core/backdrop/createBackdrop'
import { EMPTY_HISTORY, record } from '../../core/backdrop/history'
import { labelOf, reduce, type BackdropAction } from '../../core/backdrop/reduce'
import { readStored } from '../../core/backdrop/storedHistory'
import { createSlideshow } from '../../core/kinds/slideshow/Slideshow'
import type { EncoderNames } from '../../core/weight/native/bestNames'
import { detailOf } from '../../core/material/findings'
import { ApiError } from '../ApiError'
import type { Database } from './database'
import type { BackdropRow } from './models'
import type { Shelf } from './Shelf'
import { usersOf, writeUsedSources, type Written } from './usedSources'

/** What a save has become. */
interface Saved {
  readonly revision: number
  readonly updatedAt: string
}

/** Revisions that a list shows at most. */
const MAX_LISTED = 2000

/**
 * Backdrops with their documents, histories and revisions, in PostgreSQL. Methods throw `ApiError`.
 */
export class Backdrops {
  private readonly database: Database
  private readonly shelf: Shelf

  constructor(database: Database, shelf: Shelf) {
    this.database = database
    this.shelf = shelf
  }

  private get models() {
    return this.database.models
  }

  /**
   * A new backdrop of a clip or an image, of several images, or without a source of a paint; its
   * final files are made by `encoders`. Errors: `spot/not-found`, `source/not-found`,
   * `source/other-kind`.
   */
  async create(
    spotId: string,
    { name, sourceId, slides = null }: BackdropOrder,
    encoders: EncoderNames,
  ): Promise<BackdropRecord> {
    const spot = await this.models.Spot.findByPk(spotId)
    if (!spot) throw new ApiError('spot/not-found')
    const sources = await Promise.all(
      (slides?.sourceIds ?? (sourceId === null ? [] : [sourceId])).map((id) => this.shelf.read(id)),
    )
    if (slides && sources.some(isClip)) throw new ApiError('source/not-image')
    const source = sources[0] ?? null
    const project = await this.models.Project.findByPk(await this.projectOfSpot(spotId), {
      rejectOnEmpty: true,
    })
    const { budgets, breakpoints, screens } = settingsSchema.parse(project.settings)
    const document = createBackdrop({
      base: slides ? createSlideshow(slides.sourceIds, slides.setId, budgets) : baseOf(source),
      picture: source && pictureOf(source.facts),
      scope: spot.scope,
      height: heightSchema.parse(spot.height),
      brand: project.name,
      budgets,
      breakpoints,
      screens,
      encoders,
      ...(source && { detail: detailOf(source.findings) }),
    })
    return this.add(spotId, name, document)
  }

  /**
   * Hangs a backdrop whose document is made already. Errors: `spot/not-found`,
   * `backdrop/unknown-source`.
   */
  async add(spotId: string, name: string, made: BackdropDocument): Promise<BackdropRecord> {
    // What could not be read again is never stored.
    const document = backdropSchema.parse(made)
    const id = await this.database.transaction(async (transaction) => {
      const projectId = await this.projectOfSpot(spotId, transaction)
      const row = await this.models.Backdrop.create(
        { spotId, name, revision: 1, document, history: EMPTY_HISTORY },
        { transaction },
      )
      await this.write(
        { backdropId: row.id, projectId, revision: 1, document, history: EMPTY_HISTORY },
        { label: 'created', saveId: null },
        transaction,
      )
      return row.id
    })
    return this.read(id)
  }

  async read(id: string): Promise<BackdropRecord> {
    const row = await this.models.Backdrop.findByPk(id)
    if (!row) throw new ApiError('backdrop/not-found')
    const spot = await this.models.Spot.findByPk(row.spotId, { rejectOnEmpty: true })
    const page = await this.models.Page.findByPk(spot.pageId, { rejectOnEmpty: true })
    const project = await this.models.Project.findByPk(page.projectId, { rejectOnEmpty: true })
    const named = ({ id: of, name }: { id: string; name: string }) => ({ id: of, name })
    const { document, history } = stored(row)
    return {
      id: row.id,
      name: row.name,
      revision: row.revision,
      document,
      history,
      updatedAt: row.updatedAt.toISOString(),
      project: named(project),
      page: named(page),
      spot: named(spot),
    }
  }

  /**
   * Saves a document as the next revision. The same save (by its id) sent again gets the first
   * answer again. Errors: `backdrop/conflict`, with the present revision, if another save came
   * first; `backdrop/unknown-source`.
   */
  async save(id: string, save: BackdropSave): Promise<Saved> {
    const { baseRevision, saveId, label, document, history } = save
    const saved = await this.database.transaction(async (transaction): Promise<Saved | null> => {
      const row = await this.lock(id, transaction)
      const before = await this.models.Revision.findOne({
        where: { backdropId: id, saveId },
        transaction,
      })
      if (before) return { revision: before.revision, updatedAt: before.createdAt.toISOString() }
      if (row.revision !== baseRevision) return null
      const updatedAt = new Date()
      const revision = baseRevision + 1
      const projectId = await this.projectOfSpot(row.spotId, transaction)
      await this.write(
        { backdropId: id, projectId, revision, document, history },
        { label, saveId, updatedAt },
        transaction,
      )
      await row.update({ document, history, revision, updatedAt }, { transaction })
      return { revision, updatedAt: updatedAt.toISOString() }
    })
    if (!saved) throw new ApiError('backdrop/conflict', await this.read(id))
    return saved
  }

  async rename(id: string, name: string): Promise<void> {
    const [count] = await this.models.Backdrop.update({ name }, { where: { id } })
    if (count === 0) throw new ApiError('backdrop/not-found')
  }

  async delete(id: string): Promise<void> {
    if ((await this.models.Backdrop.destroy({ where: { id } })) === 0)
      throw new ApiError('backdrop/not-found')
  }

  /** The kept revisions, newest first. */
  async listRevisions(backdropId: string): Promise<Revision[]> {
    if (!(await this.models.Backdrop.findByPk(backdropId, { attributes: ['id'] }))) {
      throw new ApiError('backdrop/not-found')
    }
    const rows = await this.models.Revision.findAll({
      where: { backdropId },
      attributes: ['revision', 'label', 'createdAt'],
      order: [['revision', 'DESC']],
      limit: MAX_LISTED,
    })
    return rows.map((row) => ({
      revision: row.revision,
      label: row.label.slice(0, 120),
      createdAt: row.createdAt.toISOString(),
    }))
  }

  /** A revision with its document, upgraded. Errors: `revision/not-found`. */
  async readRevision(backdropId: string, revision: number): Promise<OpenRevision> {
    const row = await this.models.Revision.findOne({ where: { backdropId, revision } })
    if (!row) throw new ApiError('revision/not-found')
    const parsed = parseBackdrop(row.document)
    if (!parsed.success)
      throw new Error(`revision ${row.id} is stored in an unknown shape`, { cause: parsed.error })
    const label = row.label.slice(0, 120)
    return { revision, label, createdAt: row.createdAt.toISOString(), document: parsed.data }
  }

  /**
   * Makes every backdrop that is made from a clip or an image show another: one revision each, so
   * that an open tab is asked and undo brings the old one back. Errors: `source/other-kind`.
   */
  async replaceSource(id: string, withId: string): Promise<{ backdrops: string[] }> {
    const [before, after] = [await this.shelf.read(id), await this.shelf.read(withId)]
    if (isClip(before) !== isClip(after)) throw new ApiError('source/other-kind')
    if (before.projectId !== after.projectId) throw new ApiError('source/not-found')
    return this.database.transaction(async (transaction) => {
      const showing = await this.database.query<{ id: string }>(
        `SELECT DISTINCT backdrop_id AS id FROM used_sources
          WHERE source_id = $1 AND reach = 'document' AND sha256 IS NULL`,
        [id],
        transaction,
      )
      const rows = await this.models.Backdrop.findAll({
        where: { id: showing.map((each) => each.id) },
        order: [['createdAt', 'ASC']],
        transaction,
        lock: transaction.LOCK.UPDATE,
      })
      for (const row of rows) {
        const { document, history } = stored(row)
        const actions = swaps(document, id, after)
        const next = actions.reduce(reduce, document)
        const label = labelOf(actions[0]!)
        const steps = record(history, label, null, document, next)
        const revision = row.revision + 1
        const updatedAt = new Date()
        await this.write(
          {
            backdropId: row.id,
            projectId: before.projectId,
            revision,
            document: next,
            history: steps,
          },
          { label, saveId: null, updatedAt },
          transaction,
        )
        await row.update({ document: next, history: steps, revision, updatedAt }, { transaction })
      }
      return { backdrops: rows.map((row) => row.name) }
    })
  }

  /** Names of the backdrops that use any of some sources. */
  usersOf(sourceIds: readonly string[]): Promise<{ sourceId: string; name: string }[]> {
    return usersOf(this.database, sourceIds)
  }

  /** The revision's row and what it uses. */
  private async write(
    written: Written,
    { label, saveId, updatedAt }: { label: string; saveId: string | null; updatedAt?: Date },
    transaction: Transaction,
  ): Promise<void> {
    const { backdropId, revision, document } = written
    await this.models.Revision.create(
      {
        backdropId,
        revision,
        label,
        saveId,
        document,
        ...(updatedAt ? { createdAt: updatedAt } : {}),
      },
      { transaction },
    )
    await writeUsedSources(this.database, written, transaction)
  }

  private async lock(id: string, transaction: Transaction): Promise<BackdropRow> {
    const row = await this.models.Backdrop.findByPk(id, {
      transaction,
      lock: transaction.LOCK.UPDATE,
    })
    if (!row) throw new ApiError('backdrop/not-found')
    return row
  }

  private async projectOfSpot(spotId: string, transaction?: Transaction): Promise<string> {
    const [found] = await this.database.query<{ projectId: string }>(
      `SELECT pages.project_id AS "projectId" FROM spots JOIN pages ON pages.id = spots.page_id
      WHERE spots.id = $1 FOR KEY SHARE OF spots, pages`,
      [spotId],
      transaction,
    )
    if (!found) throw new ApiError('spot/not-found')
    return found.projectId
  }
}

/** A row's document and history, upgraded. */
function stored(row: BackdropRow): ReturnType<typeof readStored> {
  try {
    return readStored(row.document, row.history)
  } catch (error) {
    throw new Error(`backdrop ${row.id} is stored in an unknown shape`, { cause: error })
  }
}

/** The changes by which a document shows another source instead of one. */
function swaps({ base }: BackdropDocument, id: string, after: Source): BackdropAction[] {
  if (isClip(after)) return [{ type: 'material/swap', sourceId: after.id, facts: after.facts }]
  if (base.kind !== 'slideshow') return [{ type: 'image/swap', sourceId: after.id }]
  return base.slides
    .filter(({ sourceId }) => sourceId === id)
    .map((slide) => ({ type: 'slides/swap', id: slide.id, sourceId: after.id }))
}

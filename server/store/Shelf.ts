import { literal, Op, type Order, type Transaction, type WhereOptions } from 'sequelize'
import {
  factsSchema,
  sourceCardSchema,
  sourceSchema,
  type ShelfPage,
  type ShelfQuery,
  type Source,
  type SourceCard,
  type ImageSet,
} from '../../core/api/wire'
import { livelinessOf, type Analysis } from '../../core/material/Analysis'
import { findingsOf, widestScreen, type Finding } from '../../core/material/findings'
import type { SourceFacts } from '../../core/media/probe'
import { ApiError } from '../ApiError'
import type { StoredBlob } from '../blobs/BlobStore'
import type { Database } from './database'
import type { SourceRow } from './models'
import { requireProject } from './Projects'
import { usersOf } from './usedSources'

const GRAVITY = { fix: 0, look: 1, note: 2 } as const

/**
 * A project's material in PostgreSQL: sources, their facts, and sets of images. Methods throw
 * `ApiError` if something no longer exists or a rule forbids the change.
 */
export class Shelf {
  private readonly database: Database

  constructor(database: Database) {
    this.database = database
  }

  private get models() {
    return this.database.models
  }

  /** A part of the shelf, filtered and sorted, with the number of all that match. */
  async list(projectId: string, query: ShelfQuery): Promise<ShelfPage> {
    const where: WhereOptions<SourceRow> & Record<string | symbol, unknown> = {
      projectId,
      deletedAt: null,
    }
    if (query.kind !== 'all') where['kind'] = query.kind
    if (query.liveliness !== 'all') where['liveliness'] = query.liveliness
    if (query.wide > 0) where['widest'] = { [Op.gte]: query.wide }
    const and: unknown[] = []
    if (query.search.trim() !== '')
      and.push({ name: { [Op.iLike]: `%${query.search.trim().replaceAll(/[%_\\]/g, '\\$&')}%` } })
    if (query.orientation !== 'all')
      and.push(
        literal(
          `"Source"."width" ${{ landscape: '>', portrait: '<', square: '=' }[query.orientation]} "Source"."height"`,
        ),
      )
    // Notes are good to know; what is to be decided or repaired is what a designer looks for.
    const graver = `jsonb_path_exists("Source"."findings", '$[*] ? (@.weight != "note")')`
    if (query.findings !== 'all')
      and.push(literal(query.findings === 'some' ? graver : `NOT ${graver}`))
    if (query.set) {
      const members = await this.models.SetMember.findAll({ where: { setId: query.set } })
      where['id'] = { [Op.in]: members.map((member) => member.sourceId) }
    }
    if (and.length > 0) where[Op.and] = and
    const { rows, count } = await this.models.Source.findAndCountAll({
      where,
      attributes: {
        exclude: ['analysis'],
        include: [
          [literal('"Source"."analysis" -> \'palette\''), 'palette'],
          [literal('"Source"."analysis" IS NOT NULL'), 'measured'],
        ],
      },
      order: ORDERS[query.sort],
      offset: query.offset,
      limit: query.limit,
    })
    const users = await usersOf(
      this.database,
      rows.map((row) => row.id),
    )
    return { total: count, sources: rows.map((row) => toCard(row, users)) }
  }

  async read(id: string): Promise<Source> {
    const row = await this.rowOf(id)
    return toSource(row, await usersOf(this.database, [id]))
  }

  /**
   * Puts stored content on a project's shelf. Content that is on it already is not added twice: its
   * source is returned, and restored if it was taken off. Errors: `project/not-found`.
   */
  async add(
    projectId: string,
    name: string,
    sha256: string,
    facts: SourceFacts,
  ): Promise<{ source: Source; known: boolean }> {
    const { id, known } = await this.database.transaction((transaction) =>
      this.place({ projectId, name, sha256, facts }, transaction),
    )
    return { source: await this.read(id), known }
  }

  /** The same within a transaction; gives the id of the source. */
  async place(
    {
      projectId,
      name,
      sha256,
      facts,
    }: { projectId: string; name: string; sha256: string; facts: SourceFacts },
    transaction: Transaction,
  ): Promise<{ id: string; known: boolean }> {
    await requireProject(this.database, projectId, transaction)
    // The same content may arrive twice at the same moment: the second waits, then finds the first.
    const lock = `${projectId} ${sha256}`
    await this.database.query(
      'SELECT pg_advisory_xact_lock(hashtextextended($1, 0))',
      [lock],
      transaction,
    )
    const same = await this.models.Source.findOne({
      where: { projectId, sha256 },
      order: [['deletedAt', 'DESC NULLS FIRST']],
      transaction,
    })
    if (same) {
      const known = same.deletedAt === null
      if (!known) await same.update({ deletedAt: null, name }, { transaction })
      return { id: same.id, known }
    }
    const row = await this.models.Source.create(
      { projectId, name, sha256, facts, ...columnsOf(facts, null) },
      { transaction },
    )
    return { id: row.id, known: false }
  }

  async rename(id: string, name: string): Promise<void> {
    const [count] = await this.models.Source.update({ name }, { where: { id, deletedAt: null } })
    if (count === 0) throw new ApiError('source/not-found')
  }

  /**
   * Takes sources off the shelf, all or none; they can be brought back for thirty days. Errors:
   * `source/in-use` with the names of the backdrops that use them, as clip or as poster.
   */
  async remove(ids: readonly string[]): Promise<void> {
    await this.database.transaction(async (transaction) => {
      // Saves that begin to use one of them wait, or have finished.
      const held = await this.database.query(
        'SELECT id FROM sources WHERE id = ANY($1::uuid[]) AND deleted_at IS NULL FOR UPDATE',
        [[...ids]],
        transaction,
      )
      if (held.length === 0) throw new ApiError('source/not-found')
      const users = await usersOf(this.database, ids, transaction)
      if (users.length > 0) {
        throw new ApiError('source/in-use', {
          usedBy: [...new Set(users.map((user) => user.name))],
        })
      }
      const where = { id: [...ids], deletedAt: null }
      await this.models.Source.update({ deletedAt: new Date() }, { where, transaction })
    })
  }

  async restore(ids: readonly string[]): Promise<void> {
    const [count] = await this.models.Source.update(
      { deletedAt: null },
      { where: { id: [...ids] } },
    )
    if (count === 0) throw new ApiError('source/not-found')
  }

  /** Stores a source's measurements and its filmstrip. */
  async storeAnalysis(
    id: string,
    analysis: Analysis,
    strip: StoredBlob | null,
    cells: number,
  ): Promise<Source> {
    const row = await this.rowOf(id)
    const facts = factsSchema.parse(row.facts)
    await row.update({
      analysis,
      ...columnsOf(facts, analysis),
      stripSha256: strip?.sha256 ?? null,
      stripCells: strip ? cells : null,
    })
    return this.read(id)
  }

  /**
   * Gives a source other content in a transaction. `analysis` stays where the frames are the same;
   * null takes what was measured away.
   */
  async replaceContent(
    id: string,
    { sha256, facts, analysis }: { sha256: string; facts: SourceFacts; analysis: Analysis | null },
    transaction: Transaction,
  ): Promise<void> {
    const measured = analysis ? {} : { stripSha256: null, stripCells: null }
    await this.models.Source.update(
      { sha256, facts, analysis, ...columnsOf(facts, analysis), ...measured },
      { where: { id }, transaction },
    )
  }

  async listSets(projectId: string): Promise<ImageSet[]> {
    const sets = await this.models.ImageSet.findAll({
      where: { projectId },
      order: [['createdAt', 'ASC']],
    })
    const members = await this.models.SetMember.findAll({
      where: { setId: sets.map((set) => set.id) },
      order: [['place', 'ASC']],
    })
    const live = new Set(
      (
        await this.models.Source.findAll({
          attributes: ['id'],
          where: { id: members.map((member) => member.sourceId), deletedAt: null },
        })
      ).map((row) => row.id),
    )
    return sets.map((set) => ({
      id: set.id,
      projectId,
      name: set.name,
      sourceIds: members
        .filter((member) => member.setId === set.id && live.has(member.sourceId))
        .map((member) => member.sourceId),
    }))
  }

  async createSet(
    projectId: string,
    set: { name: string; sourceIds: readonly string[] },
  ): Promise<ImageSet> {
    const id = await this.database.transaction(async (transaction) => {
      await requireProject(this.database, projectId, transaction)
      return (await this.models.ImageSet.create({ projectId, name: set.name }, { transaction })).id
    })
    return this.saveSet(id, set)
  }

  /**
   * Renames a set and puts exactly these images in it, in this order. Ids that are not images of
   * the project are left out.
   */
  async saveSet(
    id: string,
    { name, sourceIds }: { name: string; sourceIds: readonly string[] },
  ): Promise<ImageSet> {
    const row = await this.models.ImageSet.findByPk(id)
    if (!row) throw new ApiError('set/not-found')
    const known = new Set(
      (
        await this.models.Source.findAll({
          attributes: ['id'],
          where: { id: [...sourceIds], projectId: row.projectId, kind: 'image', deletedAt: null },
        })
      ).map((source) => source.id),
    )
    const kept = [...new Set(sourceIds)].filter((sourceId) => known.has(sourceId))
    await this.database.sequelize.transaction(async (transaction) => {
      await row.update({ name }, { transaction })
      await this.models.SetMember.destroy({ where: { setId: id }, transaction })
      await this.models.SetMember.bulkCreate(
        kept.map((sourceId, place) => ({ setId: id, sourceId, place })),
        { transaction },
      )
    })
    return { id, projectId: row.projectId, name, sourceIds: kept }
  }

  async deleteSet(id: string): Promise<void> {
    if ((await this.models.ImageSet.destroy({ where: { id } })) === 0)
      throw new ApiError('set/not-found')
  }

  /** A source's row. Errors: `source/not-found`. */
  async rowOf(id: string): Promise<SourceRow> {
    const row = await this.models.Source.findOne({ where: { id, deletedAt: null } })
    if (!row) throw new ApiError('source/not-found')
    return row
  }
}

const ORDERS: Readonly<Record<ShelfQuery['sort'], Order>> = {
  newest: [
    ['createdAt', 'DESC'],
    ['id', 'ASC'],
  ],
  oldest: [
    ['createdAt', 'ASC'],
    ['id', 'ASC'],
  ],
  name: [
    [literal('lower("Source"."name")'), 'ASC'],
    ['id', 'ASC'],
  ],
  bytes: [
    ['bytes', 'DESC'],
    ['id', 'ASC'],
  ],
  duration: [
    ['durationMs', 'DESC'],
    ['id', 'ASC'],
  ],
}

/** What lists are filtered and sorted by. */
function columnsOf(facts: SourceFacts, analysis: Analysis | null) {
  const clip = facts.kind === 'clip'
  return {
    kind: facts.kind,
    width: clip ? facts.video.displayWidth : facts.displayWidth,
    height: clip ? facts.video.displayHeight : facts.displayHeight,
    bytes: facts.bytes,
    durationMs: clip ? facts.durationMs : 0,
    widest: widestScreen(facts, analysis).good,
    liveliness: clip && analysis ? livelinessOf(analysis) : null,
    findings: sorted(findingsOf(facts, analysis)),
  }
}

function sorted(findings: readonly Finding[]): Finding[] {
  return [...findings].sort((a, b) => GRAVITY[a.weight] - GRAVITY[b.weight])
}

function shared(row: SourceRow, users: readonly { sourceId: string; name: string }[]) {
  return {
    id: row.id,
    projectId: row.projectId,
    name: row.name,
    sha256: row.sha256,
    facts: row.facts,
    createdAt: row.createdAt.toISOString(),
    usedBy: users.filter((user) => user.sourceId === row.id).map((user) => user.name),
    findings: row.findings,
    strip:
      row.stripSha256 && row.stripCells ? { sha256: row.stripSha256, cells: row.stripCells } : null,
  }
}

function toSource(row: SourceRow, users: readonly { sourceId: string; name: string }[]): Source {
  return sourceSchema.parse({ ...shared(row, users), analysis: row.analysis })
}

function toCard(row: SourceRow, users: readonly { sourceId: string; name: string }[]): SourceCard {
  const extra = row.get({ plain: true }) as unknown as { palette: unknown; measured: boolean }
  return sourceCardSchema.parse({
    ...shared(row, users),
    measured: extra.measured,
    liveliness: row.liveliness,
    widest: row.widest,
    palette: extra.palette ?? [],
  })
}

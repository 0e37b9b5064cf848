import { literal, Op, type Order, type Transaction, type WhereOptions } from 'sequelize'
import {
  clipSourceSchema, factsSchema, isClip, sourceCardSchema, sourceSchema, type Mended, type MendRequest, type ShelfPage, type ShelfQuery, type Source, type SourceCard, type StillSet,
} from '../../core/api/wire'
import { parseBackdrop } from '../../core/backdrop/BackdropDocument'
import { historySchema, record } from '../../core/backdrop/history'
import { labelOf, reduce } from '../../core/backdrop/reduce'
import { analysisSchema, livelinessOf, type Analysis } from '../../core/material/Analysis'
import { findingsOf, widestScreen, type Finding } from '../../core/material/findings'
import { ContainerError } from '../../core/bytes/ContainerError'
import { describeContainerError } from '../../core/media/describeContainerError'
import { planMend } from '../../core/media/mend/mendFile'
import { bytesOfPlan, type MendOrder } from '../../core/media/mend/MendPlan'
import { probe, type SourceFacts } from '../../core/media/probe'
import { ApiError } from '../ApiError'
import type { BlobStore, StoredBlob } from '../blobs/BlobStore'
import type { Database } from './database'
import type { SourceRow } from './models'

/** Taken off the shelf so long ago, a source is gone for good at the next start. */
const KEPT_MS = 7 * 24 * 3600 * 1000
const GRAVITY = { fix: 0, look: 1, note: 2 } as const

/** A project's material in PostgreSQL: sources, what is known of them, and sets of stills. Methods throw `ApiError` where a thing is gone or a rule forbids. */
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
    const where: WhereOptions<SourceRow> & Record<string | symbol, unknown> = { projectId, deletedAt: null }
    if (query.kind !== 'all') where['kind'] = query.kind
    if (query.liveliness !== 'all') where['liveliness'] = query.liveliness
    if (query.wide > 0) where['widest'] = { [Op.gte]: query.wide }
    const and: unknown[] = []
    if (query.search.trim() !== '') and.push({ name: { [Op.iLike]: `%${query.search.trim().replaceAll(/[%_\\]/g, '\\$&')}%` } })
    if (query.orientation !== 'all') and.push(literal(`"Source"."width" ${{ landscape: '>', portrait: '<', square: '=' }[query.orientation]} "Source"."height"`))
    // Notes are good to know; what is to be decided or mended is what a designer looks for.
    const graver = `jsonb_path_exists("Source"."findings", '$[*] ? (@.weight != "note")')`
    if (query.findings !== 'all') and.push(literal(query.findings === 'some' ? graver : `NOT ${graver}`))
    if (query.set) {
      const members = await this.models.SetMember.findAll({ where: { setId: query.set } })
      where['id'] = { [Op.in]: members.map((member) => member.sourceId) }
    }
    if (and.length > 0) where[Op.and] = and
    const { rows, count } = await this.models.Source.findAndCountAll({ where, attributes: { exclude: ['analysis'], include: [[literal('"Source"."analysis" -> \'palette\''), 'palette'], [literal('"Source"."analysis" IS NOT NULL'), 'measured']] }, order: ORDERS[query.sort], offset: query.offset, limit: query.limit })
    const users = await this.usersOf(rows.map((row) => row.id))
    return { total: count, sources: rows.map((row) => toCard(row, users)) }
  }

  async read(id: string): Promise<Source> {
    const row = await this.rowOf(id)
    return toSource(row, await this.usersOf([id]))
  }

  /** Puts a file on the shelf. Content that lies there already is not added twice: the source that holds it is given, brought back if it was taken off. */
  async add(projectId: string, name: string, sha256: string, facts: SourceFacts): Promise<{ source: Source; known: boolean }> {
    if (!(await this.models.Project.findByPk(projectId))) throw new ApiError('project/not-found')
    const same = await this.models.Source.findOne({ where: { projectId, sha256 }, order: [['deletedAt', 'DESC NULLS FIRST']] })
    if (same) {
      const known = same.deletedAt === null
      if (!known) await same.update({ deletedAt: null, name })
      return { source: await this.read(same.id), known }
    }
    const row = await this.models.Source.create({ projectId, name, sha256, facts, ...columnsOf(facts, null) })
    return { source: await this.read(row.id), known: false }
  }

  async rename(id: string, name: string): Promise<void> {
    const [count] = await this.models.Source.update({ name }, { where: { id, deletedAt: null } })
    if (count === 0) throw new ApiError('source/not-found')
  }

  /** Takes sources off the shelf, all or none; they can be brought back for a week. Throws `source/in-use` with the names of what hangs on them. */
  async remove(ids: readonly string[]): Promise<void> {
    const users = await this.usersOf(ids)
    if (users.length > 0) throw new ApiError('source/in-use', { usedBy: [...new Set(users.map((user) => user.name))] })
    const [count] = await this.models.Source.update({ deletedAt: new Date() }, { where: { id: [...ids], deletedAt: null } })
    if (count === 0) throw new ApiError('source/not-found')
  }

  async restore(ids: readonly string[]): Promise<void> {
    const [count] = await this.models.Source.update({ deletedAt: null }, { where: { id: [...ids] } })
    if (count === 0) throw new ApiError('source/not-found')
  }

  /** Forgets what was taken off the shelf more than a week before `now`, unless a revision knows it: undo may lead back to it. */
  async forgetOld(now: Date): Promise<number> {
    const unknown = literal('NOT EXISTS (SELECT 1 FROM revisions WHERE revisions.document -> \'material\' ->> \'sourceId\' = "Source"."id"::text OR revisions.document -> \'still\' -> \'picture\' ->> \'sourceId\' = "Source"."id"::text)')
    const rows = await this.models.Source.findAll({ attributes: ['id'], where: { deletedAt: { [Op.lt]: new Date(now.getTime() - KEPT_MS) }, [Op.and]: [unknown] } })
    return this.models.Source.destroy({ where: { id: rows.map((row) => row.id) } })
  }

  /** Keeps what a source's frames told, and its filmstrip. */
  async storeAnalysis(id: string, analysis: Analysis, strip: StoredBlob | null, cells: number): Promise<Source> {
    const row = await this.rowOf(id)
    const facts = factsSchema.parse(row.facts)
    await row.update({ analysis, ...columnsOf(facts, analysis), stripSha256: strip?.sha256 ?? null, stripCells: strip ? cells : null })
    return this.read(id)
  }

  /** Makes every backdrop that uses a source use another: one revision each, so that an open tab is asked and undo brings it back. */
  async replace(id: string, withId: string): Promise<{ backdrops: string[] }> {
    const [before, after] = [await this.read(id), await this.read(withId)]
    if (!isClip(before) || !isClip(after)) throw new ApiError('source/other-kind')
    const { Backdrop, Revision } = this.models
    return this.database.sequelize.transaction(async (transaction) => {
      const rows = await Backdrop.findAll({ where: { sourceId: id }, transaction, lock: transaction.LOCK.UPDATE })
      for (const row of rows) {
        const parsed = parseBackdrop(row.document)
        if (!parsed.success) throw new Error(`backdrop ${row.id} is stored in an unknown shape`, { cause: parsed.error })
        const action = { type: 'material/swap', sourceId: withId, facts: after.facts } as const
        const document = reduce(parsed.data, action)
        const history = record(historySchema.parse(row.history), labelOf(action), null, parsed.data, document)
        const revision = row.revision + 1
        await row.update({ document, history, sourceId: withId, revision, updatedAt: new Date() }, { transaction })
        await Revision.create({ backdropId: row.id, revision, label: labelOf(action), document }, { transaction })
      }
      return { backdrops: rows.map((row) => row.name) }
    })
  }

  /**
   * Mends a clip without encoding it anew. A cut adds a source; everything else changes this one, whose old content can be put back.
   * Throws `source/mend` with the sentence of what stands against it.
   */
  async mend(id: string, request: MendRequest, blobs: BlobStore): Promise<Mended> {
    const row = await this.rowOf(id)
    const facts = clipSourceSchema.safeParse(row.facts)
    const held = await blobs.findBySha256(row.sha256)
    if (!facts.success || !held) throw new ApiError('source/mend', undefined, 'Only clips can be mended.')
    const source = blobs.source(held)
    const plan = await planMend(source, orderOf(request, facts.data.container))
    if (!plan.ok) throw new ApiError('source/mend', { code: plan.error.code }, describeContainerError(plan.error))
    const blobId = crypto.randomUUID()
    await blobs.begin(blobId, plan.value.bytes, {})
    const blob = await blobs.append(blobId, 0, bytesOfPlan(plan.value, source)).then(() => blobs.seal(blobId)).catch(async (error: unknown) => {
      // Nothing of a copy that broke off is kept.
      await blobs.remove(blobId)
      if (error instanceof ContainerError) throw new ApiError('source/mend', { code: error.code }, describeContainerError(error))
      throw error
    })
    const before = { bytesBefore: held.size, bytesAfter: blob.size, startMs: plan.value.startMs, before: row.sha256 }
    if (request.operation === 'cut') {
      const read = await this.probeBlob(blobs, blob)
      const { source: added } = await this.add(row.projectId, cutName(row.name, request), blob.sha256, read)
      return { source: added, added: true, ...before }
    }
    return { source: await this.putContent(id, blob.sha256, blobs), added: false, ...before }
  }

  /** Gives a source other content that is stored already: after a mend, and to undo one. What its frames told stays true where the frames are the same. */
  async putContent(id: string, sha256: string, blobs: BlobStore): Promise<Source> {
    const row = await this.rowOf(id)
    const blob = await blobs.findBySha256(sha256)
    if (!blob) throw new ApiError('source/no-undo')
    const facts = await this.probeBlob(blobs, blob)
    const before = factsSchema.parse(row.facts)
    const same = before.kind === 'clip' && facts.kind === 'clip' && before.video.frameCount === facts.video.frameCount
    const analysis = same && row.analysis ? analysisSchema.parse(row.analysis) : null
    await this.database.sequelize.transaction(async (transaction) => {
      if (same && before.video.durationTicks === facts.video.durationTicks && before.video.timescale === facts.video.timescale) await this.carryRenditions(row.sha256, sha256, transaction)
      await row.update({ sha256, facts, analysis, ...columnsOf(facts, analysis), ...(analysis ? {} : { stripSha256: null, stripCells: null }) }, { transaction })
    })
    return this.read(id)
  }

  /** Coded frames and times are the same, so what was rendered from the one holds for the other: nothing is encoded twice. */
  private async carryRenditions(from: string, to: string, transaction: Transaction): Promise<void> {
    await this.database.sequelize.query(
      `INSERT INTO renditions (key, sha256, bytes, facts) SELECT replace(key, :from, :to), sha256, bytes, facts FROM renditions WHERE position(:from in key) > 0 ON CONFLICT (key) DO NOTHING`,
      { replacements: { from, to }, transaction },
    )
  }

  async listSets(projectId: string): Promise<StillSet[]> {
    const sets = await this.models.StillSet.findAll({ where: { projectId }, order: [['createdAt', 'ASC']] })
    const members = await this.models.SetMember.findAll({ where: { setId: sets.map((set) => set.id) }, order: [['place', 'ASC']] })
    const live = new Set((await this.models.Source.findAll({ attributes: ['id'], where: { id: members.map((member) => member.sourceId), deletedAt: null } })).map((row) => row.id))
    return sets.map((set) => ({ id: set.id, projectId, name: set.name, sourceIds: members.filter((member) => member.setId === set.id && live.has(member.sourceId)).map((member) => member.sourceId) }))
  }

  async createSet(projectId: string, set: { name: string; sourceIds: readonly string[] }): Promise<StillSet> {
    if (!(await this.models.Project.findByPk(projectId))) throw new ApiError('project/not-found')
    const row = await this.models.StillSet.create({ projectId, name: set.name })
    return this.saveSet(row.id, set)
  }

  /** Names a set anew and puts exactly these stills in it, in this order. Members that are no stills of the project are left out. */
  async saveSet(id: string, { name, sourceIds }: { name: string; sourceIds: readonly string[] }): Promise<StillSet> {
    const row = await this.models.StillSet.findByPk(id)
    if (!row) throw new ApiError('set/not-found')
    const known = new Set((await this.models.Source.findAll({ attributes: ['id'], where: { id: [...sourceIds], projectId: row.projectId, kind: 'still', deletedAt: null } })).map((source) => source.id))
    const kept = [...new Set(sourceIds)].filter((sourceId) => known.has(sourceId))
    await this.database.sequelize.transaction(async (transaction) => {
      await row.update({ name }, { transaction })
      await this.models.SetMember.destroy({ where: { setId: id }, transaction })
      await this.models.SetMember.bulkCreate(kept.map((sourceId, place) => ({ setId: id, sourceId, place })), { transaction })
    })
    return { id, projectId: row.projectId, name, sourceIds: kept }
  }

  async deleteSet(id: string): Promise<void> {
    if ((await this.models.StillSet.destroy({ where: { id } })) === 0) throw new ApiError('set/not-found')
  }

  private async rowOf(id: string): Promise<SourceRow> {
    const row = await this.models.Source.findOne({ where: { id, deletedAt: null } })
    if (!row) throw new ApiError('source/not-found')
    return row
  }

  private usersOf(ids: readonly string[]): Promise<{ sourceId: string; name: string }[]> {
    return this.models.Backdrop.findAll({ attributes: ['sourceId', 'name'], where: { sourceId: [...ids] } })
  }

  private async probeBlob(blobs: BlobStore, blob: StoredBlob): Promise<SourceFacts> {
    const read = await probe(blobs.source(blob))
    if (!read.ok) throw new ApiError('source/mend', { code: read.error.code }, describeContainerError(read.error))
    return read.value
  }
}

const ORDERS: Readonly<Record<ShelfQuery['sort'], Order>> = {
  newest: [['createdAt', 'DESC'], ['id', 'ASC']],
  oldest: [['createdAt', 'ASC'], ['id', 'ASC']],
  name: [[literal('lower("Source"."name")'), 'ASC'], ['id', 'ASC']],
  bytes: [['bytes', 'DESC'], ['id', 'ASC']],
  duration: [['durationMs', 'DESC'], ['id', 'ASC']],
}

function orderOf(request: MendRequest, container: Extract<SourceFacts, { kind: 'clip' }>['container']): MendOrder {
  const own = container === 'mp4' || container === 'mov' || container === 'webm' || container === 'mkv' ? container : 'mp4'
  const cut = request.operation === 'cut'
  return {
    container: request.operation === 'container' ? (request.container ?? 'mp4') : own,
    keepSound: request.operation !== 'no-sound' && request.operation !== 'container',
    startMs: cut ? (request.startMs ?? null) : null,
    endMs: cut ? (request.endMs ?? null) : null,
    strip: request.operation === 'strip',
  }
}

function cutName(name: string, { startMs = 0, endMs }: MendRequest): string {
  const dot = name.lastIndexOf('.')
  const [stem, suffix] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, '']
  return `${stem} ${(startMs / 1000).toFixed(1)}–${endMs === undefined ? 'end' : (endMs / 1000).toFixed(1)}${suffix}`.slice(0, 120)
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
    id: row.id, projectId: row.projectId, name: row.name, sha256: row.sha256, facts: row.facts, createdAt: row.createdAt.toISOString(),
    usedBy: users.filter((user) => user.sourceId === row.id).map((user) => user.name), findings: row.findings,
    strip: row.stripSha256 && row.stripCells ? { sha256: row.stripSha256, cells: row.stripCells } : null,
  }
}

function toSource(row: SourceRow, users: readonly { sourceId: string; name: string }[]): Source {
  return sourceSchema.parse({ ...shared(row, users), analysis: row.analysis })
}

function toCard(row: SourceRow, users: readonly { sourceId: string; name: string }[]): SourceCard {
  const extra = row.get({ plain: true }) as unknown as { palette: unknown; measured: boolean }
  return sourceCardSchema.parse({ ...shared(row, users), measured: extra.measured, liveliness: row.liveliness, widest: row.widest, palette: extra.palette ?? [] })
}

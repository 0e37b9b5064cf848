import type { Transaction } from 'sequelize'
import {
  changedSettings,
  MAX_PAINTS,
  settingsSchema,
  type ProjectSettings,
  type SettingsChange,
} from '../../core/api/settings'
import {
  heightSchema,
  type BackdropSummary,
  type Page,
  type Project,
  type ProjectSummary,
  type Spot,
} from '../../core/api/wire'
import { BRAND_LIMITS } from '../../core/brand/Brand'
import { paintSchema, type Paint } from '../../core/kinds/paint/Paint'
import { ApiError } from '../ApiError'
import type { Database } from './database'
import type { BackdropRow, PageRow, SpotRow } from './models'
import { shownSources } from './usedSources'

type SpotDraft = Pick<Spot, 'name' | 'scope' | 'height'>

interface SummaryRow {
  id: string
  name: string
  pages: number
  sources: number
  backdrops: number
  latestBackdropId: string | null
  updatedAt: Date
}

/**
 * Projects with their pages and spots, in PostgreSQL. Methods throw `ApiError` if something no
 * longer exists.
 */
export class Projects {
  private readonly database: Database

  constructor(database: Database) {
    this.database = database
  }

  private get models() {
    return this.database.models
  }

  async list(): Promise<ProjectSummary[]> {
    const rows = await this.database.query<SummaryRow>(`
      SELECT projects.id, projects.name,
        (SELECT count(*)::int FROM pages WHERE pages.project_id = projects.id) AS pages,
        (SELECT count(*)::int FROM sources WHERE sources.project_id = projects.id AND deleted_at IS NULL) AS sources,
        coalesce(own.count, 0) AS backdrops, own.latest AS "latestBackdropId",
        coalesce(own.updated_at, projects.created_at) AS "updatedAt"
      FROM projects LEFT JOIN (
        SELECT pages.project_id, count(*)::int AS count, max(backdrops.updated_at) AS updated_at,
          (array_agg(backdrops.id ORDER BY backdrops.updated_at DESC))[1] AS latest
        FROM backdrops JOIN spots ON spots.id = backdrops.spot_id JOIN pages ON pages.id = spots.page_id
        GROUP BY pages.project_id
      ) own ON own.project_id = projects.id
      ORDER BY projects.created_at`)
    return rows.map((row) => ({ ...row, updatedAt: row.updatedAt.toISOString() }))
  }

  /** A new project, with a first page and spot so that the next step is plain. */
  async create(name: string): Promise<Project> {
    const id = await this.database.transaction(async (transaction) => {
      const project = await this.models.Project.create({ name }, { transaction })
      const page = await this.models.Page.create(
        { projectId: project.id, name: 'Home' },
        { transaction },
      )
      await this.models.Spot.create(
        { pageId: page.id, name: 'Hero', scope: 'region', height: { unit: 'svh', value: 100 } },
        { transaction },
      )
      return project.id
    })
    return this.read(id)
  }

  async rename(id: string, name: string): Promise<void> {
    const [count] = await this.models.Project.update({ name }, { where: { id } })
    if (count === 0) throw new ApiError('project/not-found')
  }

  /** What a project decides for all its backdrops. */
  async readSettings(id: string): Promise<ProjectSettings> {
    const project = await this.models.Project.findByPk(id)
    if (!project) throw new ApiError('project/not-found')
    return settingsSchema.parse(project.settings)
  }

  /** Changes what a change names; two at the same moment are made one after the other. */
  async changeSettings(id: string, change: SettingsChange): Promise<ProjectSettings> {
    return this.database.transaction(async (transaction) => {
      const project = await this.models.Project.findByPk(id, { transaction, lock: true })
      if (!project) throw new ApiError('project/not-found')
      const settings = changedSettings(settingsSchema.parse(project.settings), change)
      if (settings.paints.length > MAX_PAINTS) throw new ApiError('settings/too-many-paints')
      if (
        settings.colors.length > BRAND_LIMITS.colors ||
        settings.typefaces.length > BRAND_LIMITS.typefaces
      )
        throw new ApiError('settings/too-many-colors')
      await project.update({ settings }, { transaction })
      return settings
    })
  }

  async delete(id: string): Promise<void> {
    // Backdrops hold their sources; they go first, with their spots.
    await this.database.transaction(async (transaction) => {
      await this.models.Page.destroy({ where: { projectId: id }, transaction })
      const count = await this.models.Project.destroy({ where: { id }, transaction })
      if (count === 0) throw new ApiError('project/not-found')
    })
  }

  async read(id: string): Promise<Project> {
    const project = await this.models.Project.findByPk(id)
    if (!project) throw new ApiError('project/not-found')
    const oldest = [['createdAt', 'ASC']] as [string, string][]
    const pages = await this.models.Page.findAll({ where: { projectId: id }, order: oldest })
    const spots = await this.models.Spot.findAll({
      where: { pageId: pages.map((page) => page.id) },
      order: oldest,
    })
    const backdrops = await this.models.Backdrop.findAll({
      attributes: { exclude: ['document', 'history'] },
      where: { spotId: spots.map((spot) => spot.id) },
      order: oldest,
    })
    const shown = await shownSources(
      this.database,
      backdrops.map((backdrop) => backdrop.id),
    )
    const paints = await this.shownPaints(backdrops.map((backdrop) => backdrop.id))
    const spotsOf = (page: PageRow): Spot[] =>
      spots
        .filter((spot) => spot.pageId === page.id)
        .map((spot) => toSpot(spot, backdrops, shown, paints))
    return {
      id,
      name: project.name,
      pages: pages.map((page): Page => ({
        id: page.id,
        projectId: id,
        name: page.name,
        spots: spotsOf(page),
      })),
    }
  }

  /** The paints of backdrops that are one, without reading whole documents. */
  private async shownPaints(backdropIds: readonly string[]): Promise<Map<string, Paint>> {
    const rows = await this.database.query<{ id: string; base: unknown }>(
      `SELECT id, document->'base' AS base FROM backdrops
      WHERE id = ANY($1::uuid[]) AND document->'base'->>'kind' = 'paint'`,
      [[...backdropIds]],
    )
    return new Map(
      rows.flatMap(({ id, base }) => {
        const paint = paintSchema.safeParse(base)
        return paint.success ? [[id, paint.data] as const] : []
      }),
    )
  }

  async createPage(projectId: string, name: string): Promise<{ id: string }> {
    return this.database.transaction(async (transaction) => {
      await requireProject(this.database, projectId, transaction)
      const page = await this.models.Page.create({ projectId, name }, { transaction })
      return { id: page.id }
    })
  }

  async renamePage(id: string, name: string): Promise<void> {
    const [count] = await this.models.Page.update({ name }, { where: { id } })
    if (count === 0) throw new ApiError('page/not-found')
  }

  async deletePage(id: string): Promise<void> {
    if ((await this.models.Page.destroy({ where: { id } })) === 0)
      throw new ApiError('page/not-found')
  }

  async createSpot(pageId: string, spot: SpotDraft): Promise<{ id: string }> {
    if (!(await this.models.Page.findByPk(pageId))) throw new ApiError('page/not-found')
    const row = await this.models.Spot.create({ pageId, ...spot })
    return { id: row.id }
  }

  async changeSpot(id: string, change: Partial<SpotDraft>): Promise<void> {
    if (!(await this.models.Spot.findByPk(id))) throw new ApiError('spot/not-found')
    await this.models.Spot.update(change, { where: { id } })
  }

  async deleteSpot(id: string): Promise<void> {
    if ((await this.models.Spot.destroy({ where: { id } })) === 0)
      throw new ApiError('spot/not-found')
  }
}

/**
 * Holds a project until the transaction ends: it cannot be deleted meanwhile. Errors:
 * `project/not-found`.
 */
export async function requireProject(
  database: Database,
  id: string,
  transaction: Transaction,
): Promise<void> {
  const found = await database.query(
    'SELECT id FROM projects WHERE id = $1 FOR KEY SHARE',
    [id],
    transaction,
  )
  if (found.length === 0) throw new ApiError('project/not-found')
}

function toSpot(
  spot: SpotRow,
  backdrops: readonly BackdropRow[],
  shown: ReadonlyMap<string, string>,
  paints: ReadonlyMap<string, Paint>,
): Spot {
  const hanging = backdrops
    .filter((backdrop) => backdrop.spotId === spot.id)
    .map((row): BackdropSummary => ({
      id: row.id,
      spotId: row.spotId,
      name: row.name,
      sourceId: shown.get(row.id) ?? null,
      paint: paints.get(row.id) ?? null,
      updatedAt: row.updatedAt.toISOString(),
    }))
  return {
    id: spot.id,
    pageId: spot.pageId,
    name: spot.name,
    scope: spot.scope,
    height: heightSchema.parse(spot.height),
    backdrops: hanging,
  }
}

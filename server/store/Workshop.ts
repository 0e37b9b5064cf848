import { Op } from 'sequelize'
import {
  isClip, type BackdropRecord, type BackdropSummary, type Page, type Project, type ProjectSummary, type Rendition, type RenditionFacts,
  type Revision, type Spot, heightSchema, renditionFactsSchema,
} from '../../core/api/wire'
import { settingsSchema, type ProjectSettings } from '../../core/api/settings'
import { parseBackdrop, type BackdropDocument, sourcesOf } from '../../core/backdrop/BackdropDocument'
import { createBackdrop } from '../../core/backdrop/createBackdrop'
import { EMPTY_HISTORY, historySchema, type History } from '../../core/backdrop/history'
import { detailOf } from '../../core/material/findings'
import { ApiError } from '../ApiError'
import type { Database } from './database'
import type { Shelf } from './Shelf'
import type { BackdropRow, PageRow, SpotRow } from './models'

/** A save by one tab: it must stand on the revision that the tab has seen. */
export interface BackdropSave {
  readonly baseRevision: number
  readonly label: string
  readonly document: BackdropDocument
  readonly history: History
}

/** Projects and all that belongs to them, in PostgreSQL. Methods throw `ApiError` where a thing is gone or a rule forbids. */
export class Workshop {
  private readonly database: Database
  private readonly shelf: Shelf

  constructor(database: Database, shelf: Shelf) {
    this.database = database
    this.shelf = shelf
  }

  private get models() {
    return this.database.models
  }

  async listProjects(): Promise<ProjectSummary[]> {
    const { Project, Page, Spot, Source, Backdrop } = this.models
    const [projects, pages, spots, sources, backdrops] = await Promise.all([
      Project.findAll({ order: [['createdAt', 'ASC']] }),
      Page.findAll({ attributes: ['id', 'projectId'] }),
      Spot.findAll({ attributes: ['id', 'pageId'] }),
      Source.findAll({ attributes: ['projectId'], where: { deletedAt: null } }),
      Backdrop.findAll({ attributes: ['id', 'spotId', 'updatedAt'], order: [['updatedAt', 'DESC']] }),
    ])
    const projectOfPage = new Map(pages.map((page) => [page.id, page.projectId]))
    const projectOfSpot = new Map(spots.map((spot) => [spot.id, projectOfPage.get(spot.pageId)]))
    return projects.map((project) => {
      const own = backdrops.filter((backdrop) => projectOfSpot.get(backdrop.spotId) === project.id)
      return {
        id: project.id,
        name: project.name,
        pages: pages.filter((page) => page.projectId === project.id).length,
        sources: sources.filter((source) => source.projectId === project.id).length,
        backdrops: own.length,
        latestBackdropId: own[0]?.id ?? null,
        updatedAt: (own[0]?.updatedAt ?? project.createdAt).toISOString(),
      }
    })
  }

  /** A new project, with a first page and spot so that the next step is plain. */
  async createProject(name: string): Promise<Project> {
    const id = await this.database.sequelize.transaction(async (transaction) => {
      const project = await this.models.Project.create({ name }, { transaction })
      const page = await this.models.Page.create({ projectId: project.id, name: 'Home' }, { transaction })
      await this.models.Spot.create({ pageId: page.id, name: 'Hero', scope: 'region', height: { unit: 'svh', value: 100 } }, { transaction })
      return project.id
    })
    return this.readProject(id)
  }

  async renameProject(id: string, name: string): Promise<void> {
    const [count] = await this.models.Project.update({ name }, { where: { id } })
    if (count === 0) throw new ApiError('project/not-found')
  }

  /** What a project decides for all its backdrops. */
  async readSettings(id: string): Promise<ProjectSettings> {
    const project = await this.models.Project.findByPk(id)
    if (!project) throw new ApiError('project/not-found')
    return settingsSchema.parse(project.settings)
  }

  async writeSettings(id: string, settings: ProjectSettings): Promise<void> {
    const [count] = await this.models.Project.update({ settings }, { where: { id } })
    if (count === 0) throw new ApiError('project/not-found')
  }

  async deleteProject(id: string): Promise<void> {
    // Backdrops hold their source; they go first, with their spots.
    await this.database.sequelize.transaction(async (transaction) => {
      await this.models.Page.destroy({ where: { projectId: id }, transaction })
      const count = await this.models.Project.destroy({ where: { id }, transaction })
      if (count === 0) throw new ApiError('project/not-found')
    })
  }

  async readProject(id: string): Promise<Project> {
    const project = await this.models.Project.findByPk(id)
    if (!project) throw new ApiError('project/not-found')
    const pages = await this.models.Page.findAll({ where: { projectId: id }, order: [['createdAt', 'ASC']] })
    const spots = await this.models.Spot.findAll({ where: { pageId: pages.map((page) => page.id) }, order: [['createdAt', 'ASC']] })
    const backdrops = await this.models.Backdrop.findAll({ where: { spotId: spots.map((spot) => spot.id) }, order: [['createdAt', 'ASC']] })
    const spotsOf = (page: PageRow): Spot[] => spots.filter((spot) => spot.pageId === page.id).map((spot) => toSpot(spot, backdrops))
    return { id, name: project.name, pages: pages.map((page): Page => ({ id: page.id, projectId: id, name: page.name, spots: spotsOf(page) })) }
  }

  async createPage(projectId: string, name: string): Promise<{ id: string }> {
    if (!(await this.models.Project.findByPk(projectId))) throw new ApiError('project/not-found')
    const page = await this.models.Page.create({ projectId, name })
    return { id: page.id }
  }

  async renamePage(id: string, name: string): Promise<void> {
    const [count] = await this.models.Page.update({ name }, { where: { id } })
    if (count === 0) throw new ApiError('page/not-found')
  }

  async deletePage(id: string): Promise<void> {
    if ((await this.models.Page.destroy({ where: { id } })) === 0) throw new ApiError('page/not-found')
  }

  async createSpot(pageId: string, spot: { name: string; scope: 'region' | 'page'; height: BackdropDocument['fit']['height'] }): Promise<{ id: string }> {
    if (!(await this.models.Page.findByPk(pageId))) throw new ApiError('page/not-found')
    const row = await this.models.Spot.create({ pageId, ...spot })
    return { id: row.id }
  }

  async changeSpot(id: string, change: Partial<{ name: string; scope: 'region' | 'page'; height: unknown }>): Promise<void> {
    const [count] = await this.models.Spot.update(change, { where: { id } })
    if (count === 0) throw new ApiError('spot/not-found')
  }

  async deleteSpot(id: string): Promise<void> {
    if ((await this.models.Spot.destroy({ where: { id } })) === 0) throw new ApiError('spot/not-found')
  }

  async createBackdrop(spotId: string, name: string, sourceId: string): Promise<BackdropRecord> {
    const spot = await this.models.Spot.findByPk(spotId)
    if (!spot) throw new ApiError('spot/not-found')
    const source = await this.shelf.read(sourceId)
    if (!isClip(source)) throw new ApiError('source/other-kind', undefined, 'A backdrop of footage is made from a clip, not from a still.')
    const project = await this.models.Project.findByPk(source.projectId, { rejectOnEmpty: true })
    const { budgets, limits, screens } = settingsSchema.parse(project.settings)
    const document = createBackdrop({
      sourceId, facts: source.facts, usable: source.analysis?.usable ?? null, scope: spot.scope, height: heightSchema.parse(spot.height), brand: project.name, budgets, limits, screens,
      detail: detailOf(source.findings),
    })
    return this.addBackdrop(spotId, name, document)
  }

  /** Hangs a backdrop whose document is made already. */
  async addBackdrop(spotId: string, name: string, document: BackdropDocument): Promise<BackdropRecord> {
    const row = await this.database.sequelize.transaction(async (transaction) => {
      const made = await this.models.Backdrop.create(
        { spotId, sourceId: document.material.sourceId, name, revision: 1, document, history: EMPTY_HISTORY }, { transaction },
      )
      await this.models.Revision.create({ backdropId: made.id, revision: 1, label: 'made', document }, { transaction })
      return made
    })
    return this.readBackdrop(row.id)
  }

  async readBackdrop(id: string): Promise<BackdropRecord> {
    const row = await this.models.Backdrop.findByPk(id)
    if (!row) throw new ApiError('backdrop/not-found')
    const spot = await this.models.Spot.findByPk(row.spotId, { rejectOnEmpty: true })
    const page = await this.models.Page.findByPk(spot.pageId, { rejectOnEmpty: true })
    const project = await this.models.Project.findByPk(page.projectId, { rejectOnEmpty: true })
    const named = ({ id: of, name }: { id: string; name: string }) => ({ id: of, name })
    return { ...toBackdrop(row), project: named(project), page: named(page), spot: named(spot) }
  }

  /** Saves a document as the next revision. Throws `backdrop/conflict`, with what stands there now, when another save came first. */
  async saveBackdrop(id: string, save: BackdropSave): Promise<{ revision: number; updatedAt: string }> {
    const updatedAt = new Date()
    const revision = save.baseRevision + 1
    const saved = await this.database.sequelize.transaction(async (transaction) => {
      const [count] = await this.models.Backdrop.update(
        { document: save.document, history: save.history, sourceId: save.document.material.sourceId, revision, updatedAt },
        { where: { id, revision: save.baseRevision }, transaction },
      )
      if (count === 0) return false
      // Undo may lead back to a clip that was taken off the shelf meanwhile: what is used lies on it.
      await this.models.Source.update({ deletedAt: null }, { where: { id: sourcesOf(save.document), deletedAt: { [Op.ne]: null } }, transaction })
      await this.models.Revision.create({ backdropId: id, revision, label: save.label, document: save.document }, { transaction })
      return true
    })
    if (!saved) throw new ApiError('backdrop/conflict', await this.readBackdrop(id))
    return { revision, updatedAt: updatedAt.toISOString() }
  }

  async renameBackdrop(id: string, name: string): Promise<void> {
    const [count] = await this.models.Backdrop.update({ name }, { where: { id } })
    if (count === 0) throw new ApiError('backdrop/not-found')
  }

  async deleteBackdrop(id: string): Promise<void> {
    if ((await this.models.Backdrop.destroy({ where: { id } })) === 0) throw new ApiError('backdrop/not-found')
  }

  async listRevisions(backdropId: string): Promise<Revision[]> {
    const rows = await this.models.Revision.findAll({ where: { backdropId }, attributes: ['revision', 'label', 'createdAt'], order: [['revision', 'DESC']], limit: 200 })
    return rows.map((row) => ({ revision: row.revision, label: row.label, createdAt: row.createdAt.toISOString() }))
  }

  async findRenditions(keys: readonly string[]): Promise<Rendition[]> {
    const rows = await this.models.Rendition.findAll({ where: { key: { [Op.in]: [...keys] } } })
    return rows.map((row) => ({ key: row.key, sha256: row.sha256, bytes: row.bytes, facts: renditionFactsSchema.parse(row.facts) }))
  }

  /** Keeps a finished file under its recipe; a recipe that is kept already stays as it is. */
  async keepRendition(key: string, sha256: string, bytes: number, facts: RenditionFacts): Promise<Rendition> {
    await this.models.Rendition.findOrCreate({ where: { key }, defaults: { key, sha256, bytes, facts } })
    const [kept] = await this.findRenditions([key])
    return kept!
  }
}

function toSpot(spot: SpotRow, backdrops: readonly BackdropRow[]): Spot {
  const hanging = backdrops.filter((backdrop) => backdrop.spotId === spot.id).map(
    (row): BackdropSummary => ({ id: row.id, spotId: row.spotId, name: row.name, sourceId: row.sourceId, updatedAt: row.updatedAt.toISOString() }),
  )
  return { id: spot.id, pageId: spot.pageId, name: spot.name, scope: spot.scope, height: heightSchema.parse(spot.height), backdrops: hanging }
}

function toBackdrop(row: BackdropRow): Omit<BackdropRecord, 'project' | 'page' | 'spot'> {
  const parsed = parseBackdrop(row.document)
  if (!parsed.success) throw new Error(`backdrop ${row.id} is stored in an unknown shape`, { cause: parsed.error })
  return {
    id: row.id,
    name: row.name,
    revision: row.revision,
    document: parsed.data,
    history: historySchema.parse(row.history),
    updatedAt: row.updatedAt.toISOString(),
  }
}

import {
  DataTypes,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Model,
  type Sequelize,
} from 'sequelize'

/*
 * Rows as Sequelize sees them. Tables are made by migrations, never by sync. JSON columns are
 * parsed with Zod where they are read.
 */

interface Row<M extends Model> extends Model<InferAttributes<M>, InferCreationAttributes<M>> {
  id: CreationOptional<string>
  createdAt: CreationOptional<Date>
}

export interface ProjectRow extends Row<ProjectRow> {
  name: string
  settings: CreationOptional<object>
}
export interface PageRow extends Row<PageRow> {
  projectId: string
  name: string
}
export interface SpotRow extends Row<SpotRow> {
  pageId: string
  name: string
  scope: 'region' | 'page'
  height: unknown
}
export interface SourceRow extends Row<SourceRow> {
  projectId: string
  name: string
  sha256: string
  facts: unknown
  /** Copies of what lists are filtered and sorted by; `facts` and `analysis` are the truth. */
  kind: 'clip' | 'image'
  width: number
  height: number
  bytes: number
  durationMs: number
  widest: number
  liveliness: CreationOptional<string | null>
  findings: unknown
  analysis: CreationOptional<object | null>
  stripSha256: CreationOptional<string | null>
  stripCells: CreationOptional<number | null>
  deletedAt: CreationOptional<Date | null>
}
export interface ImageSetRow extends Row<ImageSetRow> {
  projectId: string
  name: string
}
export interface SetMemberRow extends Model<
  InferAttributes<SetMemberRow>,
  InferCreationAttributes<SetMemberRow>
> {
  setId: string
  sourceId: string
  place: number
}
export interface BackdropRow extends Row<BackdropRow> {
  spotId: string
  name: string
  revision: number
  document: unknown
  history: unknown
  updatedAt: CreationOptional<Date>
}
export interface RevisionRow extends Row<RevisionRow> {
  backdropId: string
  revision: number
  label: string
  /** The id of the save that wrote it; null where the server did. */
  saveId: CreationOptional<string | null>
  document: unknown
}
export interface RenditionRow extends Model<
  InferAttributes<RenditionRow>,
  InferCreationAttributes<RenditionRow>
> {
  key: string
  sha256: string
  bytes: number
  facts: unknown
}
export interface BlobRow extends Row<BlobRow> {
  /** Null until the last byte has come. */
  sha256: string | null
  size: number
  received: number
}
export interface ChunkRow extends Model<
  InferAttributes<ChunkRow>,
  InferCreationAttributes<ChunkRow>
> {
  blobId: string
  seq: number
  data: Buffer
}

/* Created for each column: Sequelize writes into the objects it gets. */
const id = () => ({ type: DataTypes.UUID, primaryKey: true, defaultValue: DataTypes.UUIDV4 })
const reference = () => ({ type: DataTypes.UUID, allowNull: false })
const text = () => ({ type: DataTypes.TEXT, allowNull: false })
const json = () => ({ type: DataTypes.JSONB, allowNull: false })
const created = () => ({ type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW })
/** PostgreSQL returns 64-bit integers as text; ours stay far below 2^53. */
const bytes = (column: string) => ({
  type: DataTypes.BIGINT,
  allowNull: false,
  get(this: Model) {
    return Number(this.getDataValue(column))
  },
})

const options = (tableName: string) => ({ tableName, timestamps: false, underscored: true })

/** Projects, their pages and spots. */
function defineProjects(sequelize: Sequelize) {
  return {
    Project: sequelize.define<ProjectRow>(
      'Project',
      { id: id(), name: text(), settings: { ...json(), defaultValue: {} }, createdAt: created() },
      options('projects'),
    ),
    Page: sequelize.define<PageRow>(
      'Page',
      { id: id(), projectId: reference(), name: text(), createdAt: created() },
      options('pages'),
    ),
    Spot: sequelize.define<SpotRow>(
      'Spot',
      {
        id: id(),
        pageId: reference(),
        name: text(),
        scope: text(),
        height: json(),
        createdAt: created(),
      },
      options('spots'),
    ),
  }
}

/** What is on their shelves. */
function defineShelf(sequelize: Sequelize) {
  return {
    Source: sequelize.define<SourceRow>(
      'Source',
      {
        id: id(),
        projectId: reference(),
        name: text(),
        sha256: text(),
        facts: json(),
        createdAt: created(),
        kind: text(),
        width: DataTypes.INTEGER,
        height: DataTypes.INTEGER,
        bytes: bytes('bytes'),
        durationMs: DataTypes.DOUBLE,
        widest: DataTypes.INTEGER,
        liveliness: DataTypes.TEXT,
        findings: json(),
        analysis: DataTypes.JSONB,
        stripSha256: DataTypes.TEXT,
        stripCells: DataTypes.INTEGER,
        deletedAt: DataTypes.DATE,
      },
      options('sources'),
    ),
    ImageSet: sequelize.define<ImageSetRow>(
      'ImageSet',
      { id: id(), projectId: reference(), name: text(), createdAt: created() },
      options('image_sets'),
    ),
    SetMember: sequelize.define<SetMemberRow>(
      'SetMember',
      {
        setId: { type: DataTypes.UUID, primaryKey: true },
        sourceId: { type: DataTypes.UUID, primaryKey: true },
        place: DataTypes.INTEGER,
      },
      options('set_members'),
    ),
  }
}

/** What is made of it. */
function defineBackdrops(sequelize: Sequelize) {
  return {
    Backdrop: sequelize.define<BackdropRow>(
      'Backdrop',
      {
        id: id(),
        spotId: reference(),
        name: text(),
        revision: DataTypes.INTEGER,
        document: json(),
        history: json(),
        createdAt: created(),
        updatedAt: created(),
      },
      options('backdrops'),
    ),
    Revision: sequelize.define<RevisionRow>(
      'Revision',
      {
        id: id(),
        backdropId: reference(),
        revision: DataTypes.INTEGER,
        label: text(),
        saveId: DataTypes.UUID,
        document: json(),
        createdAt: created(),
      },
      options('revisions'),
    ),
    Rendition: sequelize.define<RenditionRow>(
      'Rendition',
      {
        key: { type: DataTypes.TEXT, primaryKey: true },
        sha256: text(),
        bytes: bytes('bytes'),
        facts: json(),
      },
      options('renditions'),
    ),
  }
}

/** Bytes, in parts. */
function defineContents(sequelize: Sequelize) {
  return {
    Blob: sequelize.define<BlobRow>(
      'Blob',
      {
        id: id(),
        sha256: DataTypes.TEXT,
        size: bytes('size'),
        received: bytes('received'),
        createdAt: created(),
      },
      options('blobs'),
    ),
    Chunk: sequelize.define<ChunkRow>(
      'Chunk',
      {
        blobId: { type: DataTypes.UUID, primaryKey: true },
        seq: { type: DataTypes.INTEGER, primaryKey: true },
        data: DataTypes.BLOB,
      },
      options('chunks'),
    ),
  }
}

/** Defines every model on a connection. */
export function defineModels(sequelize: Sequelize) {
  return {
    ...defineProjects(sequelize),
    ...defineShelf(sequelize),
    ...defineBackdrops(sequelize),
    ...defineContents(sequelize),
  }
}

export type Models = ReturnType<typeof defineModels>

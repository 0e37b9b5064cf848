import { Sequelize, type QueryInterface } from 'sequelize'
import { SequelizeStorage, Umzug } from 'umzug'
import { first } from './migrations/0001-first'
import { material } from './migrations/0002-material'
import { settings } from './migrations/0003-settings'
import { defineModels, type Models } from './models'

/** Every migration, in order. */
export const MIGRATIONS = [first, material, settings] as const

/** A connection with its models. */
export interface Database {
  readonly sequelize: Sequelize
  readonly models: Models
  close(): Promise<void>
}

/** Connects to PostgreSQL. Throws where it cannot be reached. */
export async function openDatabase(url: string): Promise<Database> {
  const sequelize = new Sequelize(url, { dialect: 'postgres', logging: false, pool: { max: 8, idle: 10_000 } })
  await sequelize.authenticate()
  return { sequelize, models: defineModels(sequelize), close: () => sequelize.close() }
}

/** The migrator of a database: `up()` brings it to the newest shape, `down({ to: 0 })` back to nothing. */
export function migrator(database: Database) {
  return new Umzug({
    migrations: MIGRATIONS.map(({ name, up, down }) => ({
      name,
      up: ({ context }: { context: QueryInterface }) => up(context),
      down: ({ context }: { context: QueryInterface }) => down(context),
    })),
    context: database.sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize: database.sequelize, tableName: 'migrations' }),
    logger: undefined,
  })
}

import { SequelizeStorage, Umzug } from 'umzug'
import type { Db } from './db'
import { MIGRATIONS } from './migrations'

/** Brings the tables up to date, or up to the migration `to`; returns the names of what was done. */
export async function migrateDatabase(db: Db, to?: string): Promise<string[]> {
  const umzug = new Umzug({
    migrations: MIGRATIONS.map((m) => ({ name: m.name, up: () => m.up(db.sequelize.getQueryInterface()) })),
    storage: new SequelizeStorage({ sequelize: db.sequelize, modelName: 'migrations' }),
    logger: undefined,
  })
  return (await (to ? umzug.up({ to }) : umzug.up())).map((m) => m.name)
}

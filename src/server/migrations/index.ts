import { type DataType, DataTypes, type QueryInterface } from 'sequelize'

export interface Migration {
  name: string
  up(q: QueryInterface): Promise<void>
}
const id = { type: DataTypes.STRING(40), primaryKey: true }
const need = (type: DataType) => ({ type, allowNull: false })
const stamps = { created_at: need(DataTypes.DATE(3)), updated_at: need(DataTypes.DATE(3)) }
const charset = { charset: 'utf8mb4', collate: 'utf8mb4_unicode_ci' }

/** In order. Append only: a migration that has landed never changes. */
export const MIGRATIONS: Migration[] = [
  {
    name: '0001-projects-and-shots',
    async up(q) {
      await q.createTable('projects', { id, name: need(DataTypes.STRING(200)), ...stamps }, charset)
      await q.createTable(
        'shots',
        {
          id,
          project_id: { ...need(DataTypes.STRING(40)), references: { model: 'projects', key: 'id' }, onDelete: 'CASCADE' },
          name: need(DataTypes.STRING(200)),
          doc: need(DataTypes.TEXT('long')),
          revision: need(DataTypes.INTEGER),
          ...stamps,
        },
        charset,
      )
      await q.createTable(
        'shot_versions',
        {
          id,
          shot_id: { ...need(DataTypes.STRING(40)), references: { model: 'shots', key: 'id' }, onDelete: 'CASCADE' },
          revision: need(DataTypes.INTEGER),
          name: { type: DataTypes.STRING(200) },
          doc: need(DataTypes.TEXT('long')),
          created_at: stamps.created_at,
        },
        charset,
      )
      await q.addIndex('shots', ['project_id'])
      await q.addIndex('shot_versions', ['shot_id', 'created_at'])
    },
  },
  {
    name: '0002-assets',
    async up(q) {
      await q.createTable(
        'assets',
        {
          hash: { type: DataTypes.STRING(64), primaryKey: true },
          name: need(DataTypes.STRING(200)),
          bytes: need(DataTypes.BIGINT),
          kind: need(DataTypes.STRING(20)),
          info: need(DataTypes.TEXT),
          created_at: stamps.created_at,
        },
        charset,
      )
    },
  },
  {
    name: '0003-jobs',
    async up(q) {
      await q.createTable(
        'jobs',
        {
          id,
          shot_id: { ...need(DataTypes.STRING(40)), references: { model: 'shots', key: 'id' }, onDelete: 'CASCADE' },
          name: need(DataTypes.STRING(200)),
          state: need(DataTypes.STRING(20)),
          doc: need(DataTypes.TEXT('long')),
          settings: need(DataTypes.TEXT),
          message: { type: DataTypes.TEXT },
          worker: { type: DataTypes.STRING(60) },
          lease: need(DataTypes.BIGINT),
          started_at: { type: DataTypes.BIGINT },
          files: need(DataTypes.TEXT),
          ...stamps,
        },
        charset,
      )
      await q.addIndex('jobs', ['state', 'created_at'])
      await q.createTable(
        'job_frames',
        {
          job_id: { ...need(DataTypes.STRING(40)), primaryKey: true, references: { model: 'jobs', key: 'id' }, onDelete: 'CASCADE' },
          frame: { type: DataTypes.INTEGER, primaryKey: true },
          file: need(DataTypes.STRING(200)),
          bytes: need(DataTypes.BIGINT),
          ms: need(DataTypes.FLOAT),
        },
        charset,
      )
    },
  },
  {
    name: '0004-attempts-and-long-facts',
    async up(q) {
      await q.addColumn('jobs', 'attempts', { ...need(DataTypes.INTEGER), defaultValue: 0 })
      // Facts of a file with many parts.
      await q.changeColumn('assets', 'info', need(DataTypes.TEXT('medium')))
    },
  },
  {
    name: '0005-order-of-renders',
    async up(q) {
      await q.addColumn('jobs', 'rank', { ...need(DataTypes.INTEGER), defaultValue: 0 })
    },
  },
  {
    name: '0006-bakes',
    async up(q) {
      // What a job makes: pictures, or frames of the simulation that are drawn later.
      await q.addColumn('jobs', 'kind', { ...need(DataTypes.STRING(20)), defaultValue: 'render' })
    },
  },
]

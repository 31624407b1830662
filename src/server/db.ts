import { DataTypes, type InferAttributes, type InferCreationAttributes, type Model, type ModelStatic, Sequelize } from 'sequelize'

type Row<M extends Model> = Model<InferAttributes<M>, InferCreationAttributes<M>>
export interface ProjectRow extends Row<ProjectRow> {
  id: string
  name: string
  createdAt?: Date
  updatedAt?: Date
}
export interface ShotRow extends Row<ShotRow> {
  id: string
  projectId: string
  name: string
  /** The shot document as JSON text. */
  doc: string
  revision: number
  createdAt?: Date
  updatedAt?: Date
}
export interface VersionRow extends Row<VersionRow> {
  id: string
  shotId: string
  revision: number
  /** Null for automatic versions, which thin out with age. */
  name: string | null
  doc: string
  createdAt?: Date
}
export interface AssetRow extends Row<AssetRow> {
  hash: string
  name: string
  bytes: number
  kind: string
  /** What the reader found, as JSON text. */
  info: string
  createdAt?: Date
}
export type JobState = 'queued' | 'running' | 'stopping' | 'stopped' | 'done' | 'failed'
export interface JobRow extends Row<JobRow> {
  id: string
  shotId: string
  name: string
  state: JobState
  doc: string
  settings: string
  message: string | null
  worker: string | null
  /** Until when the worker holds the job, milliseconds since 1970. */
  lease: number
  startedAt: number | null
  files: string
  createdAt?: Date
  updatedAt?: Date
}
export interface JobFrameRow extends Row<JobFrameRow> {
  jobId: string
  frame: number
  file: string
  bytes: number
  ms: number
}
export interface Db {
  sequelize: Sequelize
  Project: ModelStatic<ProjectRow>
  Shot: ModelStatic<ShotRow>
  Version: ModelStatic<VersionRow>
  Asset: ModelStatic<AssetRow>
  Job: ModelStatic<JobRow>
  JobFrame: ModelStatic<JobFrameRow>
}

const id = { type: DataTypes.STRING(40), primaryKey: true } as const
const need = <T>(type: T) => ({ type, allowNull: false })

/** A connection of its own to a database; `url` as in mariadb://user@127.0.0.1:3310/fox_ember. */
export function connect(url: string): Db {
  const sequelize = new Sequelize(url, {
    dialect: 'mariadb',
    logging: false,
    pool: { max: 8 },
    define: { underscored: true },
    dialectOptions: { connectTimeout: 5000, ...socketOf(url) },
  })
  return {
    sequelize,
    Project: sequelize.define<ProjectRow>('project', { id, name: need(DataTypes.STRING(200)) }),
    Shot: sequelize.define<ShotRow>('shot', {
      id,
      projectId: need(DataTypes.STRING(40)),
      name: need(DataTypes.STRING(200)),
      doc: need(DataTypes.TEXT('long')),
      revision: need(DataTypes.INTEGER),
    }),
    Version: sequelize.define<VersionRow>(
      'shot_version',
      {
        id,
        shotId: need(DataTypes.STRING(40)),
        revision: need(DataTypes.INTEGER),
        name: DataTypes.STRING(200),
        doc: need(DataTypes.TEXT('long')),
      },
      { updatedAt: false },
    ),
    Asset: sequelize.define<AssetRow>(
      'asset',
      {
        hash: { type: DataTypes.STRING(64), primaryKey: true },
        name: need(DataTypes.STRING(200)),
        bytes: need(DataTypes.BIGINT),
        kind: need(DataTypes.STRING(20)),
        info: need(DataTypes.TEXT),
      },
      { updatedAt: false },
    ),
    Job: sequelize.define<JobRow>('job', {
      id,
      shotId: need(DataTypes.STRING(40)),
      name: need(DataTypes.STRING(200)),
      state: need(DataTypes.STRING(20)),
      doc: need(DataTypes.TEXT('long')),
      settings: need(DataTypes.TEXT),
      message: DataTypes.TEXT,
      worker: DataTypes.STRING(60),
      lease: need(DataTypes.BIGINT),
      startedAt: DataTypes.BIGINT,
      files: need(DataTypes.TEXT),
    }),
    JobFrame: sequelize.define<JobFrameRow>(
      'job_frame',
      {
        jobId: { type: DataTypes.STRING(40), primaryKey: true },
        frame: { type: DataTypes.INTEGER, primaryKey: true },
        file: need(DataTypes.STRING(200)),
        bytes: need(DataTypes.BIGINT),
        ms: need(DataTypes.FLOAT),
      },
      { timestamps: false },
    ),
  }
}
function socketOf(url: string): { socketPath?: string } {
  const socketPath = new URL(url).searchParams.get('socket')
  return socketPath ? { socketPath } : {}
}

const shared = globalThis as { emberDb?: Db }
/** The web server's connection, made when first needed. */
export function db(): Db {
  if (!shared.emberDb) {
    const url = process.env.DATABASE_URL
    if (!url) throw new Error('DATABASE_URL is not set; start with bin/start')
    shared.emberDb = connect(url)
  }
  return shared.emberDb
}
export function dataFolder(): string {
  const folder = process.env.EMBER_DATA
  if (!folder) throw new Error('EMBER_DATA is not set; start with bin/start')
  return folder
}

import type { AssetFacts } from '../formats'
import type { PassName, Region } from '../protocol'
import type { Shot } from '../shot'

/** What the server refused, and its message. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly details: Record<string, unknown> = {},
  ) {
    super(message)
  }
}
async function call<T>(method: string, path: string, body?: unknown, init: RequestInit = {}): Promise<T> {
  const json = body !== undefined && !(body instanceof Blob)
  let r: Response
  try {
    r = await fetch(path, {
      method,
      body: body === undefined ? undefined : json ? JSON.stringify(body) : body,
      headers: json ? { 'content-type': 'application/json' } : undefined,
      ...init,
    })
  } catch {
    throw new ApiError(0, 'the server does not answer')
  }
  const data = (await r.json().catch(() => ({}))) as T & { error?: string }
  if (!r.ok) throw new ApiError(r.status, data.error ?? `the server answered ${r.status}`, data as Record<string, unknown>)
  return data
}
export interface ShotHead {
  id: string
  projectId: string
  name: string
  revision: number
  changed: string
  frames: number
  seconds: number
  rate: number
  picture: boolean
  baked: boolean
}
export interface ProjectHead {
  id: string
  name: string
  changed: string
  shots: ShotHead[]
}
export interface LoadedShot {
  id: string
  projectId: string
  project: string
  revision: number
  saved: string
  doc: Shot
}
export interface RenderSettings {
  first: number
  last: number
  width: number
  height: number
  transparent: boolean
  formats: ('png' | 'png16' | 'exr' | 'webm' | 'mp4' | 'mov')[]
  /** Only every nth frame. */
  every: number
  /** Of EXR files: how light is stored, and what they hold beside the picture. */
  exrType: 'half' | 'float'
  passes: PassName[]
  /** Only this part of the picture; null: all of it. */
  region: Region | null
  /** Minutes that one frame may take before the render is given up. */
  frameMinutes: number
}
export interface Job {
  id: string
  shotId: string
  name: string
  state: 'queued' | 'running' | 'stopping' | 'stopped' | 'done' | 'failed'
  settings: RenderSettings
  message: string | null
  done: number
  total: number
  frames: number[]
  files: { name: string; bytes: number }[]
  folder: string
  leftS: number | null
  /** Mean bytes of its PNG files; null before the first. */
  frameBytes: number | null
  /** How many wait that are drawn before it, of one that waits itself. */
  ahead: number | null
  created: string
}
/** Frames of the simulation that stay on the disk. */
export interface Bake {
  id: string
  shotId: string
  name: string
  state: Job['state']
  first: number
  last: number
  message: string | null
  frames: number[]
  /** Of which systems and gases it is; none: of all. */
  elements: string[]
  total: number
  bytes: number
  /** Seconds of work that they took. */
  tookS: number
  leftS: number | null
  created: string
  folder: string
  /** Made by another version: it is not used. */
  old: boolean
}
export interface StoredAsset {
  hash: string
  name: string
  bytes: number
  info: AssetFacts
}
export interface StoredVideo {
  name: string
  rate: { num: number; den: number }
  frames: StoredAsset[]
  notes: string[]
}
export interface VersionHead {
  id: string
  revision: number
  name: string | null
  at: string
}
export const api = {
  projects: () => call<ProjectHead[]>('GET', '/api/projects'),
  createProject: (name: string) => call<{ id: string }>('POST', '/api/projects', { name }),
  renameProject: (id: string, name: string) => call('PATCH', `/api/projects/${id}`, { name }),
  deleteProject: (id: string) => call('DELETE', `/api/projects/${id}`),
  createShot: (project: string, doc: Shot) => call<{ id: string; revision: number }>('POST', `/api/projects/${project}/shots`, { doc }),
  /** Opens a packed shot; `lost`: what of it was missing or damaged. */
  openPackage: (project: string, zip: File) =>
    call<{ id: string; ids: string[]; lost: string[] }>('POST', `/api/projects/${project}/packages`, zip),
  shot: (id: string) => call<LoadedShot>('GET', `/api/shots/${id}`),
  deleteShot: (id: string) => call('DELETE', `/api/shots/${id}`),
  save: (id: string, revision: number, doc: Shot, keepalive = false) =>
    call<{ revision: number; saved: string }>('PUT', `/api/shots/${id}`, { revision, doc }, { keepalive }),
  picture: (id: string, jpeg: Blob) => call('PUT', `/api/shots/${id}/picture`, jpeg),
  versions: (id: string) => call<VersionHead[]>('GET', `/api/shots/${id}/versions`),
  version: (id: string, version: string) =>
    call<{ id: string; name: string | null; doc: Shot }>('GET', `/api/shots/${id}/versions/${version}`),
  nameVersion: (id: string, name: string) => call('POST', `/api/shots/${id}/versions`, { name }),
  bakes: (id: string) => call<Bake[]>('GET', `/api/shots/${id}/bakes`),
  bake: (id: string, s: { first: number; last: number; elements: readonly string[] }) => call<Bake>('POST', `/api/shots/${id}/bakes`, s),
  renders: (id: string) => call<Job[]>('GET', `/api/shots/${id}/renders`),
  render: (id: string, s: RenderSettings) => call<Job>('POST', `/api/shots/${id}/renders`, s),
  jobs: () => call<Job[]>('GET', '/api/jobs'),
  job: (id: string, action: 'stop' | 'resume' | 'hasten') => call('POST', `/api/jobs/${id}`, { action }),
  deleteJob: (id: string) => call('DELETE', `/api/jobs/${id}`),
  /** A video as numbered pictures, in their order. */
  uploadVideo: (file: File) => call<StoredVideo>('POST', `/api/videos?name=${encodeURIComponent(file.name)}`, file),
  upload: (file: File) => call<StoredAsset>('POST', `/api/assets?name=${encodeURIComponent(file.name)}`, file),
}
export const messageOf = (e: unknown): string => (e instanceof Error ? e.message : String(e))

import { type ChildProcess, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync, zipSync } from 'fflate'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { compile } from '../acts'
import { smoking } from '../acts/testing/gas'
import { frameMark, World } from '../engine'
import { openVdb } from '../formats/vdb'
import { unpackFrame } from '../hosts/framePack'
import { bakedFile } from '../hosts/node/bakedFrames'
import { nodeKernels } from '../hosts/node/kernels'
import { WORLD_BYTES } from '../machines/instantiate'
import type { Shot } from '../shot'
import { apartBakes, bakedDoc, bakeFrame, bakeVdb, bestBake, createBake, listBakes } from './bakes'
import { createRender, deleteJob, jobFolder, listJobs, resumeJob, stopJob } from './jobs'
import { packShot, unpackShot } from './packages'
import { createProject, createShot, listProjects } from './shots'
import { openTestServer, type TestServer } from './testing/open'

let s: TestServer
let shot: Shot
let id: string
/** The same in frames that take no while, for what need not be stopped. */
let quick: Shot
let quickId: string
const workers = new Set<ChildProcess>()
beforeAll(async () => {
  s = await openTestServer()
  shot = smoking({ voxel: 0.05 })
  // Its frames take a while, so that it can be stopped between them.
  shot.substeps = 12
  shot.assets = []
  shot.gases[0].feeds[0].density = keyed(1)
  shot.range = { first: 0, last: 14 }
  shot.opens = null
  const project = await createProject(s.db, 'Bakes')
  id = (await createShot(s.db, project.id, shot)).id
  quick = { ...structuredClone(shot), name: 'Quick', substeps: 3 }
  quickId = (await createShot(s.db, project.id, quick)).id
})
afterEach(async () => {
  for (const w of workers) await end(w)
  await s.db.Job.destroy({ where: {} })
})
afterAll(() => s.close())
function startWorker(): ChildProcess {
  const w = spawn(process.execPath, ['dist/worker.mjs'], {
    env: { ...process.env, DATABASE_URL: s.url, EMBER_DATA: s.data, EMBER_ROOT: process.cwd() },
    stdio: ['ignore', 'inherit', 'inherit'],
  })
  workers.add(w)
  return w
}
async function end(w: ChildProcess): Promise<void> {
  const gone = new Promise((done) => w.once('exit', done))
  w.kill('SIGKILL')
  await gone
  workers.delete(w)
}
const bake = async (of: string) => (await listBakes(s.db, s.data, of))[0]
async function until(good: (b: Awaited<ReturnType<typeof bake>>) => boolean, of = id): Promise<Awaited<ReturnType<typeof bake>>> {
  for (let i = 0; i < 1200; i++) {
    const b = await bake(of)
    if (good(b)) return b
    if (b.state === 'failed') throw new Error(`the bake failed: ${b.message}`)
    await new Promise((r) => setTimeout(r, 50))
  }
  throw new Error(`still ${JSON.stringify(await bake(of))}`)
}
/** A density that is another from frame 8 on. */
const keyed = (then: number) =>
  ({
    keys: [
      { t: 0, v: 1, ease: 'hold' },
      { t: 8 / 24, v: then, ease: 'hold' },
    ],
  }) as never
/** Of every frame that a run computes. */
async function marks(of: Shot): Promise<string[]> {
  const host = await nodeKernels({ threads: 1 })
  const world = new World(host, compile(of, new Map()).plan, WORLD_BYTES)
  const out = [frameMark(world.capture())]
  while (world.frame < of.range.last) {
    world.step()
    out.push(frameMark(world.capture()))
  }
  world.dispose()
  host.team.dispose()
  return out
}
const all = { first: 0, last: 14 }
const all15 = Array.from({ length: 15 }, (_, f) => f)
const hashes = (bakeId: string) =>
  Array.from({ length: 15 }, (_, f) =>
    createHash('sha256')
      .update(readFileSync(join(jobFolder(s.data, bakeId), bakedFile(f))))
      .digest('hex'),
  )

/** Renders the twelfth frame. */
async function draw(shotId: string): Promise<{ message: string | null; png: Buffer }> {
  const size = { width: 96, height: 54, transparent: true, formats: ['png' as const] }
  const job = await createRender(s.db, s.data, shotId, { first: 12, last: 12, ...size })
  for (let i = 0; i < 1200; i++) {
    const j = (await listJobs(s.db, s.data, shotId)).find((x) => x.id === job.id)
    if (j?.state === 'failed') throw new Error(j.message ?? '')
    if (j?.state === 'done') return { message: j.message, png: readFileSync(join(jobFolder(s.data, job.id), 'frames/0012.png')) }
    await new Promise((r) => setTimeout(r, 50))
  }
  throw new Error('the render did not end')
}

describe('bakes', () => {
  it('are computed in the background, stopped, gone on with after kills, and are what a run computes', async () => {
    const made = await createBake(s.db, s.data, id, all)
    expect(made).toMatchObject({ state: 'queued', total: 15, frames: [], old: false })
    const heads = (await listProjects(s.db, s.data)).flatMap((p) => p.shots)
    expect(heads.find((h) => h.id === id)).toMatchObject({ baked: true })
    const first = startWorker()
    await until((b) => b.frames.length >= 2)
    await stopJob(s.db, made.id)
    const stopped = await until((b) => b.state === 'stopped')
    expect(stopped.frames.length).toBeLessThan(16)
    await end(first)
    // A frame that the disk lost half of is computed again.
    const folder = jobFolder(s.data, made.id)
    truncateSync(join(folder, bakedFile(stopped.frames[1])), 20)
    await resumeJob(s.db, made.id)
    for (let kills = 0; kills < 3; kills++) {
      const w = startWorker()
      await new Promise((r) => setTimeout(r, 500 + 300 * kills))
      await end(w)
      await s.db.Job.update({ lease: 0 }, { where: { id: made.id } })
    }
    startWorker()
    const done = await until((b) => b.state === 'done')
    expect(done.frames).toEqual(Array.from({ length: 15 }, (_, f) => f))
    expect(done.bytes).toBeGreaterThan(1000)
    expect(existsSync(join(folder, 'states'))).toBe(true)
    const wanted = await marks(shot)
    for (const f of [0, 7, 14]) {
      const bytes = await bakeFrame(s.db, s.data, made.id, f)
      const frame = await unpackFrame(new Uint8Array(bytes).buffer as ArrayBuffer, f)
      expect(frame && frameMark(frame)).toBe(wanted[f])
    }
    // Another bake of the same is the same, byte for byte.
    const before = hashes(made.id)
    const again = await createBake(s.db, s.data, id, all)
    await until((b) => b.id === again.id && b.state === 'done')
    expect(hashes(again.id)).toEqual(before)
    await deleteJob(s.db, s.data, again.id)
    expect(existsSync(jobFolder(s.data, again.id))).toBe(false)
    // It leaves as files of other programs.
    const zip = await bakeVdb(s.db, s.data, made.id)
    const files = unzipSync(new Uint8Array(await new Response(zip.stream).arrayBuffer()))
    expect(Object.keys(files)).toHaveLength(15)
    const vdb = openVdb(files['Gas.0009.vdb'])
    expect(vdb.ok && vdb.value.grids.map((g) => g.name)).toEqual(['density', 'temperature'])
  })
  it('are taken by renders as far as they are as the shot is, which say so', async () => {
    const made = await createBake(s.db, s.data, quickId, all)
    startWorker()
    await until((b) => b.state === 'done', quickId)
    expect(await bakedDoc(s.db, made.id)).toMatchObject({ name: quick.name })
    const look = structuredClone(quick)
    look.gases[0].look = look.gases[0].look.slice(0, 1)
    expect(await bestBake(s.db, quickId, look, [0, 14])).toMatchObject({ id: made.id, frames: 15 })
    // A key at frame 8 touches what comes after it.
    const later = structuredClone(quick)
    later.gases[0].feeds[0].density = keyed(3)
    const best = await bestBake(s.db, quickId, later, [0, 14])
    // Exactly those that a run of both finds to be others.
    const [a, b] = [await marks(quick), await marks(later)]
    expect(best?.frames).toBe(a.findIndex((m, f) => m !== b[f]))
    expect(best?.frames).toBeGreaterThan(6)
    const other = structuredClone(quick)
    other.gases[0].voxel = 0.07
    // There is nothing in the first frame.
    expect((await bestBake(s.db, quickId, other, [0, 14]))?.frames).toBe(1)
    // A frame of it is swapped for another: the render takes what is there, and not what a run would give.
    const folder = jobFolder(s.data, made.id)
    const nothing = { frame: 12, parts: [], stats: {}, notices: [], ms: 0 }
    const head = new TextEncoder().encode(JSON.stringify([nothing]))
    const empty = new Uint8Array(8 + head.length)
    new DataView(empty.buffer).setUint32(0, head.length, true)
    new DataView(empty.buffer).setUint32(4, 1, true)
    empty.set(head, 8)
    const baked = await draw(quickId)
    expect(baked.message).toMatch(/^1 of 1 frames by the bake of \d{4}-/)
    writeFileSync(join(folder, bakedFile(12)), empty)
    const swapped = await draw(quickId)
    expect(swapped.png.equals(baked.png)).toBe(false)
    // Without the bake it is computed, to the same picture.
    await deleteJob(s.db, s.data, made.id)
    rmSync(folder, { recursive: true, force: true })
    const computed = await draw(quickId)
    expect(computed.message).toBeNull()
    expect(computed.png.equals(baked.png)).toBe(true)
  })
  it('of one element are taken by renders, which compute the rest, and are out of date by what they need alone', async () => {
    const two = structuredClone(quick)
    const second = JSON.parse(JSON.stringify(two.gases[0]).replaceAll('"id":"', '"id":"second-'))
    two.gases.push({ ...second, name: 'Second', place: [3, 1, 0] })
    const project = await createProject(s.db, 'Apart')
    const { id: both } = await createShot(s.db, project.id, two)
    const [gas] = two.gases
    await expect(createBake(s.db, s.data, both, { ...all, elements: ['nobody'] })).rejects.toThrow(/no system or gas “nobody”.*Gas, Second/)
    const made = await createBake(s.db, s.data, both, { ...all, elements: [gas.id] })
    expect(made.elements).toEqual([gas.id])
    startWorker()
    const list = async () => (await listBakes(s.db, s.data, both))[0]
    for (let i = 0; i < 1200 && (await list()).state !== 'done'; i++) await new Promise((r) => setTimeout(r, 50))
    expect((await list()).frames).toEqual(all15)
    const frame = await unpackFrame(new Uint8Array(await bakeFrame(s.db, s.data, made.id, 9)).buffer as ArrayBuffer, 9)
    expect(frame?.parts.map((p) => p.element)).toEqual([gas.id])
    expect(await bestBake(s.db, both, two, [0, 14])).toBeNull()
    expect(await apartBakes(s.db, both, two, [0, 14])).toMatchObject([{ id: made.id, ids: [gas.id] }])
    // The other one is none of its business; its own is.
    const other = structuredClone(two)
    other.gases[1].voxel = 0.07
    expect(await apartBakes(s.db, both, other, [0, 14])).toHaveLength(1)
    other.gases[0].voxel = 0.07
    expect(await apartBakes(s.db, both, other, [0, 14])).toEqual([])
    const apart = await draw(both)
    expect(apart.message).toMatch(/^Gas by the bake of \d{4}-/)
    await deleteJob(s.db, s.data, made.id)
    const computed = await draw(both)
    expect(computed.message).toBeNull()
    expect(computed.png.equals(apart.png)).toBe(true)
  })
  it('go along in a package, and are there where it is opened; frames that are damaged in it are said', async () => {
    const made = await createBake(s.db, s.data, quickId, all)
    startWorker()
    await until((b) => b.state === 'done', quickId)
    const pack = async (baked: boolean) =>
      new Uint8Array(await new Response((await packShot(s.db, s.data, quickId, baked)).stream).arrayBuffer())
    const [zip, plain] = [await pack(true), await pack(false)]
    expect(Object.keys(unzipSync(plain)).some((n) => n.startsWith('bakes/'))).toBe(false)
    const project = await createProject(s.db, 'Opened')
    const opened = await unpackShot(s.db, s.data, project.id, zip)
    expect(opened.lost).toEqual([])
    const [there] = await listBakes(s.db, s.data, opened.id)
    expect(there).toMatchObject({ state: 'done', total: 15, old: false })
    expect(hashes(there.id)).toEqual(hashes(made.id))
    expect(await bestBake(s.db, opened.id, quick, [0, 14])).toMatchObject({ id: there.id, frames: 15 })
    const files = unzipSync(zip)
    files['bakes/0/7.bake'][40] ^= 255
    const again = await unpackShot(s.db, s.data, project.id, zipSync(files, { level: 0 }))
    expect(again.lost).toEqual(['1 frame of bake 1 is damaged: go on with it'])
    const [part] = await listBakes(s.db, s.data, again.id)
    expect(part).toMatchObject({ state: 'stopped', frames: all15.filter((f) => f !== 7) })
    // Gone on with, it is whole again, and the same.
    await resumeJob(s.db, part.id)
    for (let i = 0; i < 600 && (await listBakes(s.db, s.data, again.id))[0].state !== 'done'; i++)
      await new Promise((r) => setTimeout(r, 50))
    expect(hashes(part.id)).toEqual(hashes(made.id))
  })
  it('are refused beyond the shot', async () => {
    await expect(createBake(s.db, s.data, id, { first: 0, last: 99 })).rejects.toThrow(/the shot goes from frame 0 to 14/)
    await expect(bakeFrame(s.db, s.data, 'nothing', 0)).rejects.toThrow(/this bake/)
  })
})

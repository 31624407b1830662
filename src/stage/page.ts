import { drawnByKernels } from '../acts'
import type { Frame, Mesh } from '../engine'
import { unpack } from '../formats/pack'
import { browserKernels } from '../machines/browser'
import { WORLD_BYTES } from '../machines/instantiate'
import type { Wanted } from '../protocol'
import type { Shot } from '../shot'
import { loopedTime, timeOf } from '../shot'
import { shotPose } from './camera'
import { type Picture, Stage } from './stage'

// The page on which frames are drawn for files, in a headless browser. It fetches what it needs from the small server that
// opened it and sends pixels back; it decides nothing.
interface Setup {
  shot: Shot
  /** Their keys; each is fetched by its place in this list. */
  meshes: string[]
}
/** Paths are relative: the server's own stand below a secret that only this page was given. */
async function bytes(path: string): Promise<ArrayBuffer> {
  const r = await fetch(path)
  if (!r.ok) throw new Error(`${path}: ${r.status} ${await r.text()}`)
  return r.arrayBuffer()
}
let stage: Stage | null = null
let shot: Shot | null = null
let hasKernels = false
let meshes = new Map<string, Mesh>()

/** Takes the shot that the server has now. */
async function setup(): Promise<boolean> {
  const head = JSON.parse(new TextDecoder().decode(await bytes('setup'))) as Setup
  const known = meshes
  meshes = new Map()
  // By what they are: one that was there for the shot before is the same, and so is all that was made of it.
  for (const [i, key] of head.meshes.entries()) meshes.set(key, known.get(key) ?? unpack<Mesh>(new Uint8Array(await bytes(`mesh/${i}`))))
  shot = head.shot
  stage ??= new Stage(document.createElement('canvas'))
  stage.setShot(shot, meshes)
  if (drawnByKernels(shot) && !hasKernels) {
    hasKernels = true
    const threads = Math.max(1, Math.min(16, navigator.hardwareConcurrency || 1))
    const { host } = await browserKernels('', threads, () => new Worker('kernel-worker.js', { type: 'module' }))
    stage.setKernels(host, WORLD_BYTES)
  }
  await stage.objects.textures.ready()
  return stage.software
}
const pictureOf = (of: Shot, frame: number, width: number, height: number, transparent: boolean): Picture => {
  const t = timeOf(of, frame)
  return { t, pose: shotPose(of, t), width, height, share: 1, samples: 4, transparent, through: true, final: true, lingers: 'exact' }
}
/** Frames that have to be remembered before a frame can be rendered. */
function lacking(frame: number, width: number, height: number, transparent: boolean): number[] {
  return stage && shot ? stage.lacking(pictureOf(shot, frame, width, height, transparent)) : []
}
/** Keeps what will linger of an earlier frame. */
async function remember(frame: number, width: number, height: number, transparent: boolean): Promise<void> {
  if (!stage || !shot) throw new Error('remember before setup')
  stage.setFrame(unpack<Frame>(new Uint8Array(await bytes(`frame/${frame}`))))
  await stage.ready(loopedTime(shot, timeOf(shot, frame)))
  stage.remember(frame, pictureOf(shot, frame, width, height, transparent))
}
async function render(
  frame: number,
  width: number,
  height: number,
  transparent: boolean,
  march: 'kernels' | 'shader' | null,
  want: Wanted,
): Promise<{ ms: number; faces: Record<string, { whole: number; drawn: number }> }> {
  if (!stage || !shot) throw new Error('render before setup')
  stage.marchesOnGpu = march ? march === 'shader' : !stage.software
  const simulated = unpack<Frame>(new Uint8Array(await bytes(`frame/${frame}`)))
  const start = performance.now()
  stage.setFrame(simulated)
  await stage.ready(timeOf(shot, frame))
  const made = stage.outputs(pictureOf(shot, frame, width, height, transparent), want)
  const ms = performance.now() - start
  for (const [name, data] of Object.entries(made)) {
    // As a blob: the protocol that drives the browser copies any other body as text, which can take as long as drawing.
    const r = await fetch(`pixels/${frame}/${encodeURIComponent(name)}`, {
      method: 'POST',
      body: new Blob([data as Uint8Array<ArrayBuffer>]),
    })
    if (!r.ok) throw new Error(`the server did not take frame ${frame}: ${r.status}`)
  }
  return { ms, faces: Object.fromEntries(stage.objects.bodyFaces) }
}
/** Milliseconds that the finishes of a frame take, round by round. */
async function finishMs(frame: number, width: number, height: number, rounds: number): Promise<number[]> {
  if (!stage || !shot) throw new Error('measured before setup')
  stage.setFrame(unpack<Frame>(new Uint8Array(await bytes(`frame/${frame}`))))
  await stage.ready(timeOf(shot, frame))
  return stage.finishMs(pictureOf(shot, frame, width, height, false), rounds)
}
Object.assign(globalThis, { emberStage: { setup, lacking, remember, render, finishMs } })

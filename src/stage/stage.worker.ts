import { aliveIn, type Frame, type Mesh } from '../engine'
import { type Shot, timeOf } from '../shot'
import { Adapt, type Quality } from './adapt'
import { type Pose, shotPose } from './camera'
import type { FromStage, ToStage } from './messages'
import { Stage } from './stage'

// The stage beside the page: frames come straight from the simulation worker, the page only says from where to look.
type FromSimulation =
  | { type: 'frame'; frame: Frame; ready: boolean; sketch: boolean; serial: number }
  | { type: 'stale' }
  | { type: 'meshes'; meshes: [string, Mesh][] }

/** A picture that stands still is drawn again at full quality after this. */
const STILL_MS = 120
/** What was played last is on the screen already: when it stops, only the sharp picture is missing. */
const STOPPED_MS = 30
let stage: Stage | null = null
let canvas: OffscreenCanvas | null = null
let adapt = new Adapt(16, 0)
let shot: Shot | null = null
let frame: Frame | null = null
let ready = false
let sketch = false
let serial = 0
let asked = 0
let told: Extract<FromStage, { type: 'drawn' }> | null = null
let view: { pose: Pose | null; width: number; height: number } = { pose: null, width: 0, height: 0 }
let moving = false
let lost = false
let dirty = false
let queued = false
let still: ReturnType<typeof setTimeout> | null = null
const meshes = new Map<string, Mesh>()
const post = (m: FromStage) => self.postMessage(m)

function redraw(): void {
  dirty = true
  if (queued) return
  queued = true
  // After all messages that are waiting: only the newest state is drawn.
  setTimeout(() => {
    queued = false
    if (!dirty) return
    dirty = false
    paint(moving || still !== null ? adapt.moving : { scale: 1, share: 1 })
  }, 0)
}
/** A change that may be one of many: draws quickly now and sharpens when nothing follows. */
function touch(): void {
  settle(STILL_MS)
  redraw()
}
function settle(ms: number): void {
  if (still) clearTimeout(still)
  still = setTimeout(() => {
    still = null
    // A picture that is out of date is about to be replaced; the time is better spent on computing the new one.
    if (!moving && ready) redraw()
  }, ms)
}
function paint(q: Quality): void {
  if (!stage || !shot || !frame || lost || view.width < 2 || view.height < 2) return
  const t = timeOf(shot, frame.frame)
  const width = Math.max(2, Math.round(view.width * q.scale))
  const height = Math.max(2, Math.round(view.height * q.scale))
  const start = performance.now()
  try {
    stage.draw({
      t,
      pose: view.pose ?? shotPose(shot, t),
      width,
      height,
      share: q.share,
      samples: q.scale === 1 && q.share === 1 && !moving && still === null ? 4 : 0,
      transparent: false,
      editing: true,
    })
    stage.finish()
  } catch (error) {
    post({ type: 'failed', message: `drawing failed: ${error instanceof Error ? error.message : error}` })
    return
  }
  const ms = performance.now() - start
  if (moving || still !== null) adapt.took(ms)
  told = {
    type: 'drawn',
    frame: frame.frame,
    serial,
    asked,
    ready,
    sketch,
    ms,
    scale: q.scale,
    share: q.share,
    width,
    height,
    alive: aliveIn(frame),
  }
  post(told)
}
function fromSimulation(m: FromSimulation): void {
  if (m.type === 'meshes') {
    for (const [hash, mesh] of m.meshes) meshes.set(hash, mesh)
    if (shot) stage?.setShot(shot, meshes)
    touch()
    return
  }
  if (m.type === 'stale') {
    ready = false
    return
  }
  frame = m.frame
  ready = m.ready
  sketch = m.sketch
  serial = m.serial
  stage?.setFrame(m.frame)
  touch()
}
/** What of a shot can be seen without simulating anew. */
const visible = (s: Shot): string =>
  JSON.stringify([
    s.objects,
    s.controls,
    s.lights,
    s.cameras,
    s.camera,
    s.layers,
    s.shared,
    s.surroundings,
    s.size,
    s.rate,
    s.range,
    s.systems.map((x) => [x.id, x.muted, x.space, x.place, x.rotate, x.scale, x.copies, x.whole.look, x.phases[0].look]),
  ])
function takeShot(next: Shot): void {
  const before = shot
  shot = next
  if (before && visible(before) === visible(next)) {
    // Nothing of it is seen: the picture that is there is that of this shot too, unless another is on its way.
    if (told && !queued) post((told = { ...told, ready, asked }))
    return
  }
  stage?.setShot(next, meshes)
  touch()
}
async function picture(width: number, height: number): Promise<Blob | null> {
  if (!stage || !shot || !frame) return null
  const t = timeOf(shot, frame.frame)
  const pixels = stage.read({ t, pose: shotPose(shot, t), width, height, share: 1, samples: 0, transparent: false })
  const c = new OffscreenCanvas(width, height)
  c.getContext('2d')?.putImageData(new ImageData(new Uint8ClampedArray(pixels.buffer as ArrayBuffer), width, height), 0, 0)
  return c.convertToBlob({ type: 'image/jpeg', quality: 0.86 })
}

self.onmessage = async (event: MessageEvent<ToStage>) => {
  const m = event.data
  switch (m.type) {
    case 'init':
      canvas = m.canvas
      try {
        stage = new Stage(canvas)
        stage.objects.onPicture = touch
      } catch (error) {
        post({ type: 'failed', message: `this browser cannot draw with WebGL 2: ${error instanceof Error ? error.message : error}` })
        return
      }
      adapt = stage.software ? new Adapt(105, 3) : new Adapt(14, 0)
      canvas.addEventListener('webglcontextlost', (e) => {
        e.preventDefault()
        lost = true
        post({ type: 'context', lost: true })
      })
      canvas.addEventListener('webglcontextrestored', () => {
        lost = false
        if (shot) stage?.setShot(shot, meshes)
        post({ type: 'context', lost: false })
        redraw()
      })
      m.sim.onmessage = (e: MessageEvent<FromSimulation>) => fromSimulation(e.data)
      post({ type: 'ready', software: stage.software })
      return
    case 'shot':
      asked = m.asked
      takeShot(m.shot)
      return
    case 'view':
      asked = m.asked
      view = m
      touch()
      return
    case 'moving':
      moving = m.moving
      if (!moving) settle(STOPPED_MS)
      return
    case 'region':
      asked = m.asked
      stage?.objects.showRegion(m.object, m.region)
      touch()
      return
    case 'brush': {
      const hit = stage?.brush(m.element, m.x, m.y) ?? null
      post({ type: 'brushed', id: m.id, hit })
      return
    }
    case 'pick': {
      const aspect = view.width / Math.max(1, view.height)
      post({ type: 'picked', id: m.id, element: stage?.pick(m.x, m.y, aspect) ?? null })
      return
    }
    case 'picture':
      post({ type: 'picture', id: m.id, jpeg: await picture(m.width, m.height).catch(() => null) })
      redraw()
      return
    case 'portrait': {
      const pixels = lost ? null : (stage?.portrait(m.element, m.view, m.region, m.width, m.height) ?? null)
      const image = pixels
        ? await createImageBitmap(new ImageData(new Uint8ClampedArray(pixels.buffer as ArrayBuffer), m.width, m.height))
        : null
      self.postMessage({ type: 'portrait', id: m.id, image } satisfies FromStage, { transfer: image ? [image] : [] })
      return
    }
    case 'lose': {
      const ext = stage?.renderer.getContext().getExtension('WEBGL_lose_context')
      ext?.loseContext()
      setTimeout(() => ext?.restoreContext(), 1500)
    }
  }
}

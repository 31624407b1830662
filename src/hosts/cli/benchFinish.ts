import { actOf } from '../../acts'
import { type ActDoc, defaultsOf } from '../../shot'
import { FrameRenderer } from '../node/renderer'
import { loadShot } from '../node/shot'

const act = (kind: string, values: Record<string, unknown> = {}): ActDoc =>
  ({ id: kind, kind, seed: 3, ...defaultsOf(actOf(kind).params), ...values }) as ActDoc
const BLOOM = act('bloom')
const RAYS = act('rays', { count: 4 })
const GRADE = act('grade', { exposure: 0.3, contrast: 110, saturation: 110, darkTint: [0.9, 1, 1.1] })
const GRAIN = act('grain')
const LISTS: Record<string, ActDoc[]> = {
  'finish none': [],
  'finish bloom': [BLOOM],
  'finish rays': [RAYS],
  'finish grade grain': [GRADE, GRAIN],
  'finish all': [BLOOM, RAYS, GRADE, GRAIN],
  'finish linger': [act('linger', { time: 0.5 })],
}
const [FRAME, WIDTH, HEIGHT, ROUNDS] = [18, 1920, 1080, 9]

/** Milliseconds of finishes of a picture of 1920 × 1080 with its screen values, the median of some rounds: of a demo shot, by the browser that renders. */
export async function benchFinish(say: (line: Record<string, unknown>) => void): Promise<void> {
  const { shot, meshes } = await loadShot('demo/anvil-strike/shot.json')
  const renderer = await FrameRenderer.open(shot, meshes, 2)
  try {
    for (const [name, finish] of Object.entries(LISTS)) {
      const next = structuredClone(shot)
      next.layers[0].finish = finish
      await renderer.take(next, meshes)
      // The first round makes its programs.
      const ms = (await renderer.finishMs(FRAME, WIDTH, HEIGHT, ROUNDS + 1)).slice(1).sort((a, b) => a - b)
      say({ kernel: name, width: WIDTH, height: HEIGHT, ms: Math.round(ms[ms.length >> 1] * 10) / 10, best: Math.round(ms[0] * 10) / 10 })
    }
  } finally {
    await renderer.dispose()
  }
}

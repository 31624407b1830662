import { beforeAll, describe, expect, it } from 'vitest'
import { thing } from '../../acts/testing/things'
import type { PassName } from '../../protocol'
import type { ActDoc, LightDoc, ObjectDoc, Shot, Vec3 } from '../../shot'
import { exrChannels } from './frameFiles'
import { act, along, card, dark, layer } from './testing/cards'
import { Pictures } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [160, 90]
/** Channels of an EXR file of a frame, by name. */
async function channels(change: (s: Shot) => void, passes: PassName[], transparent = false, frame = 2) {
  const renderer = await pictures.shown((s) => {
    dark(s, [])
    s.layers = [layer('picture')]
    change(s)
  })
  const { files } = await renderer.files(
    frame,
    { width: WIDTH, height: HEIGHT, transparent },
    { png: true, png16: true, exr: true, exrType: 'float', passes },
  )
  expect(files.map((f) => f.kind)).toEqual(['exr', 'png16', 'png'])
  // The same again, as what the file is made of.
  const size = { width: WIDTH, height: HEIGHT, transparent }
  const { got } = await renderer.outputs(frame, size, { screen: false, deep: false, light: true, passes })
  const shot = structuredClone(pictures.base)
  shot.layers = [layer('picture'), layer('over')]
  shot.objects = [thing('wall'), thing('ball')]
  change(shot)
  const list = exrChannels(shot, got, 'float', transparent).channels
  const of = (name: string) => {
    const found = list.find((c) => c.name === name)
    if (!found) throw new Error(`no channel ${name} among ${list.map((c) => c.name)}`)
    return found.data
  }
  /** Of a place of the shot's plane through its middle. */
  const at = (name: string, x: number, y: number) =>
    of(name)[Math.floor((0.5 - (y * 16) / 9 / 4) * HEIGHT) * WIDTH + Math.floor((0.5 + x / 4) * WIDTH)]
  return { of, at, names: list.map((c) => c.name) }
}
const wall = card('wall', [0, 0, -1], [3, 3], [0.6, 0.3, 0.1])
const ball = card('ball', [0.5, 0, 0], [1, 1], [0.2, 0.9, 3], { layer: 'over' })

describe('passes', () => {
  it('of layers add up to the picture before its finishes, within a thousandth', async () => {
    for (const blend of ['over', 'add', 'multiply'] as const) {
      const { of } = await channels(
        (s) => {
          s.objects = [wall, ball]
          s.layers = [
            { ...layer('picture'), finish: [act('bloom')] },
            layer('over', { blend, opacity: 70, finish: [act('soften', { radius: 2 })] }),
          ]
        },
        ['layers', 'unfinished'],
      )
      for (const c of ['R', 'G', 'B']) {
        const [base, over, alpha, all] = [of(`layer picture.${c}`), of(`layer over.${c}`), of('layer over.A'), of(`unfinished.${c}`)]
        let most = 0
        for (let i = 0; i < all.length; i++) {
          const [n, a] = [over[i] * 0.7, Math.min(1, alpha[i]) * 0.7]
          const sum = blend === 'over' ? n + base[i] * (1 - a) : blend === 'add' ? base[i] + n : base[i] * (1 - a + n)
          most = Math.max(most, Math.abs(sum - all[i]) / Math.max(1, all[i]))
        }
        expect(most).toBeLessThan(1e-3)
      }
    }
  })
  it('of layers are gathered through an open shutter as the picture is, and are the picture where it has none', async () => {
    const moving = { ...ball, place: [along(-6, 6), 0, 0] as typeof ball.place }
    const open = (s: Shot) => {
      s.objects = [wall, moving]
      s.cameras[0] = { ...s.cameras[0], shutter: 180, shutterSamples: 5 }
    }
    const two = await channels(
      (s) => {
        open(s)
        s.layers = [layer('picture'), layer('over')]
      },
      ['layers', 'unfinished'],
      false,
      12,
    )
    const [base, over, alpha, all] = ['layer picture.R', 'layer over.R', 'layer over.A', 'unfinished.R'].map(two.of)
    // The wall is as bright everywhere behind the ball: so means can be laid over each other.
    let most = 0
    for (let i = 0; i < all.length; i++) most = Math.max(most, Math.abs(over[i] + base[i] * (1 - alpha[i]) - all[i]))
    expect(most).toBeLessThan(2e-3)
    expect([...alpha].some((a) => a > 0.1 && a < 0.9)).toBe(true)
    const one = await channels(
      (s) => {
        open(s)
        moving.layer = null
        s.layers = [layer('picture')]
      },
      ['layers', 'unfinished'],
      false,
      12,
    )
    expect(one.of('layer picture.R')).toEqual(one.of('unfinished.R'))
  })
  it('of what each light adds and what shines by itself add up to the picture, within a thousandth; through an open lens too', async () => {
    const lamp = (id: string, x: number, colour: Vec3): LightDoc => ({
      ...(pictures.base.lights.find((l) => l.kind === 'spot') ?? pictures.base.lights[0]),
      ...{ id, name: id, place: [x, 2, 3], aim: [0, 0, 0], colour, strength: 30, follows: undefined, shadow: true, muted: false },
    })
    for (const lens of [false, true]) {
      const { of, at } = await channels(
        (s) => {
          const white = (o: ObjectDoc): ObjectDoc => ({
            ...o,
            material: { ...o.material, colour: [0.8, 0.8, 0.8], glow: [0.02, 0.05, 0.01] },
          })
          s.objects = [white(wall), white({ ...ball, layer: null })]
          s.lights = [lamp('red', -2, [1, 0.1, 0]), lamp('blue', 2, [0, 0.2, 1]), { ...lamp('off', 0, [1, 1, 1]), muted: true }]
          if (lens) s.cameras[0] = { ...s.cameras[0], shutter: 180, shutterSamples: 3, place: [0, along(-1, 1), 5] }
        },
        ['lights', 'unfinished', 'emission'],
      )
      let most = 0
      for (const c of ['R', 'G', 'B']) {
        const [shining, red, blue, all] = ['shining', 'light red', 'light blue', 'unfinished'].map((n) => of(`${n}.${c}`))
        for (let i = 0; i < all.length; i++) most = Math.max(most, Math.abs(shining[i] + red[i] + blue[i] - all[i]) / Math.max(1, all[i]))
      }
      expect(most).toBeLessThan(1e-3)
      expect(at('light red.R', 0, 0.2)).toBeGreaterThan(0.05)
      expect(at('light red.B', 0, 0.2)).toBeLessThan(1e-4)
      expect(at('shining.G', 0, 0.2)).toBeCloseTo(0.05, 3)
      // Without gases nothing of them shines.
      expect(Math.max(...of('emission.R'))).toBe(0)
    }
  })
  it('of particles say which is nearest, of which system, where no object hides it', async () => {
    const of = (wallAt: number) =>
      channels(
        (s) => {
          const system = structuredClone(pictures.base.systems[0])
          const bare = { movement: [], contact: [], offspring: [] }
          const one = { kind: 'burst', count: 1, at: 0, every: 0, times: 1, source: 'ball', from: 'middle', speed: 0 }
          Object.assign(system, { copies: [], endless: true, space: null, limit: 10, layer: null })
          system.birth = [{ ...system.birth[0], ...one } as ActDoc]
          system.whole = { ...system.whole, ...bare }
          system.phases = system.phases.slice(0, 1).map((p) => ({ ...p, ...bare, turns: [] }))
          s.objects = [card('wall', [0, 0, wallAt], [3, 3], [0, 0, 0]), thing('ball', { place: [0.5, 0, 0] })]
          s.systems = [{ ...structuredClone(system), id: 'none', name: 'None', birth: [] }, system]
        },
        ['particles'],
      )
    const behind = await of(-1)
    expect(behind.at('particle.system', 0.5, 0)).toBe(2)
    expect(behind.at('particle.system', -0.5, 0)).toBe(0)
    expect([...behind.of('particle.system')].filter((n) => n === 1)).toHaveLength(0)
    expect(Math.max(...(await of(1)).of('particle.system'))).toBe(0)
  })
  it('say how far surfaces are, which way they face, whose they are, and how much of a pixel they cover', async () => {
    const { at, of, names } = await channels(
      (s) => void (s.objects = [wall, { ...ball, layer: null, rotate: [0, 30, 0] }]),
      ['depth', 'normal', 'id', 'masks'],
    )
    expect(at('depth.Z', -1, 0)).toBeCloseTo(6 - 0.005, 3)
    // By the middle of a pixel of a tilted face.
    expect(Math.abs(at('depth.Z', 0.5, 0) - 5)).toBeLessThan(0.02)
    expect(at('depth.Z', -1.9, 0)).toBe(Number.POSITIVE_INFINITY)
    expect([at('id', -1, 0), at('id', 0.5, 0), at('id', -1.9, 0)]).toEqual([1, 2, 0])
    expect(at('normal.Z', -1, 0)).toBeCloseTo(1, 5)
    expect(at('normal.X', 0.5, 0)).toBeCloseTo(Math.sin(Math.PI / 6), 3)
    expect(at('normal.Z', 0.5, 0)).toBeCloseTo(Math.cos(Math.PI / 6), 3)
    const area = (name: string) => (of(name) as Float32Array).reduce((a, b) => a + b, 0) / ((WIDTH / 4) * (WIDTH / 4))
    // A metre high; from its far end at 0.933 to its near end at 0.067 it is 0.818 wide as it is seen.
    expect(Math.abs(area('mask.ball') / 0.818 - 1)).toBeLessThan(0.025)
    expect(at('mask.wall', 0.5, 0)).toBe(0)
    expect(at('mask.wall', -0.5, 0)).toBe(1)
    expect(names).toContain('R')
  })
  it('say how far a surface goes until the next frame, in pixels, with the camera as with the object', async () => {
    const moves = (s: Shot) => void (s.objects = [card('wall', [along(-6, 6), 0, 0], [1, 1], [1, 1, 1])])
    const frame = 12
    const object = await channels(moves, ['motion'], false, frame)
    // 12 m/s at 24 frames a second.
    expect(object.at('motion.X', 0, 0)).toBeCloseTo(((0.5 / 4) * WIDTH * 5) / 4.995, 2)
    expect(object.at('motion.Y', 0, 0)).toBeCloseTo(0, 3)
    const camera = await channels(
      (s) => {
        s.objects = [card('wall', [0, 0, 0], [2, 2], [1, 1, 1])]
        const c = s.cameras[0]
        s.cameras[0] = { ...c, place: [0, along(-6, 6), 5], aim: [0, along(-6, 6), 0] }
      },
      ['motion'],
      false,
      frame,
    )
    expect(camera.at('motion.X', 0, 0)).toBeCloseTo(0, 3)
    expect(camera.at('motion.Y', 0, 0)).toBeCloseTo(((-0.5 / 4) * WIDTH * 5) / 4.995, 2)
  })
  it('give layers of one name names of their own, and letters that a file cannot hold plain ones', () => {
    const one = new Uint8Array(new Float32Array(4).buffer)
    const shot = {
      layers: [layer('a', { name: 'Glut über.Rauch' }), layer('b', { name: 'Glut uber Rauch' }), layer('c', { name: '火' })],
      objects: [],
      lights: [],
      systems: [],
    }
    const { channels: list } = exrChannels(shot, new Map(['a', 'b', 'c'].map((id) => [`layer ${id}`, one])), 'half', false)
    expect(list.filter((c) => c.name.endsWith('.R')).map((c) => c.name)).toEqual([
      'layer Glut uber Rauch.R',
      'layer Glut uber Rauch 2.R',
      'layer unnamed.R',
    ])
  })
})

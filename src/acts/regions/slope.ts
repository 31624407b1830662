import { cosDeg } from '../../engine'
import { number, vector } from '../../shot'
import { defineRegion, say, word } from '../define'
import { HOW, howParams, inShot, spaceParam } from './common'

export const slope = defineRegion({
  kind: 'slope',
  title: 'Slope',
  help: 'Where the surface looks in a direction.',
  params: {
    direction: vector({
      label: 'Direction',
      unit: '',
      default: [0, 1, 0],
      animated: true,
      help: 'Up takes what lies level; its length does not matter.',
    }),
    angle: number({
      label: 'Angle',
      unit: '°',
      default: 45,
      min: 0,
      max: 180,
      soft: [0, 180],
      animated: true,
      help: 'How far the surface may look away from the direction.',
    }),
    fade: number({
      label: 'Fade',
      unit: '°',
      default: 10,
      min: 0,
      max: 180,
      soft: [0, 90],
      animated: true,
      help: 'From all of it to nothing within this.',
    }),
    space: spaceParam,
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} where it looks along ${'direction'} within ${'angle'}, fading over ${'fade'}.`,
  looksAround: inShot,
  amount(p, site) {
    const d = p.vector('direction', site.t),
      l = Math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]) || 1
    const angle = p.number('angle', site.t),
      fade = p.number('fade', site.t)
    // Compared as cosines, so that no angle of a normal has to be taken.
    const full = cosDeg(Math.max(0, angle - fade / 2)),
      none = cosDeg(Math.min(180, angle + fade / 2))
    const n = site.normals()
    const w = p.choice('space', site.t) === 'shot' ? site.world : null
    // Normals go by the cofactors.
    const c = w && [
      w[5] * w[10] - w[6] * w[9],
      w[6] * w[8] - w[4] * w[10],
      w[4] * w[9] - w[5] * w[8],
      w[2] * w[9] - w[1] * w[10],
      w[0] * w[10] - w[2] * w[8],
      w[1] * w[8] - w[0] * w[9],
      w[1] * w[6] - w[2] * w[5],
      w[2] * w[4] - w[0] * w[6],
      w[0] * w[5] - w[1] * w[4],
    ]
    return (v) => {
      const i = v * 3
      const nx = n[i],
        ny = n[i + 1],
        nz = n[i + 2]
      const x = c ? c[0] * nx + c[1] * ny + c[2] * nz : nx
      const y = c ? c[3] * nx + c[4] * ny + c[5] * nz : ny
      const z = c ? c[6] * nx + c[7] * ny + c[8] * nz : nz
      const cos = (x * d[0] + y * d[1] + z * d[2]) / (l * (Math.sqrt(x * x + y * y + z * z) || 1))
      return full > none ? Math.min(1, Math.max(0, (cos - none) / (full - none))) : cos >= full ? 1 : 0
    }
  },
})

import { describe, expect, it } from 'vitest'
import { sampleCurve, sampleRamp } from '../shot'
import { drawOf, LOOK_SAMPLES, lookTable, particleLook } from '.'
import { demoShot } from './testing/shots'

describe('how particles look', () => {
  const shot = demoShot()
  const system = shot.systems[0]
  const draw = drawOf(shot, system, 0)
  it('is read from the acts of the look, in the units of the picture', () => {
    expect(draw).toMatchObject({ shape: 'dash', inside: 'add', onto: 'add', opacity: 1 })
    expect(draw.look.id).toBe('cooling')
    expect(draw.softness).toBeLessThanOrEqual(1)
  })
  it('of acts with one role the last that is not muted counts', () => {
    const s = demoShot()
    s.systems[0].whole.look.push({ id: 'later', kind: 'dot', seed: 1, softness: 20, meets: 0 })
    expect(drawOf(s, s.systems[0], 0)).toMatchObject({ shape: 'dot', dashS: 0, softness: 0.2 })
    s.systems[0].whole.look[3].muted = true
    expect(drawOf(s, s.systems[0], 0).shape).toBe('dash')
  })
  it('without any act it is a plain white dot', () => {
    const s = demoShot()
    s.systems[0].whole.look = []
    expect(drawOf(s, s.systems[0], 0)).toMatchObject({ shape: 'dot', brightness: 1, look: { name: 'plain white' } })
  })
  it('the table holds the ramp and the curves at both ends and between', () => {
    const table = lookTable(draw.look)
    expect(lookTable(draw.look)).toBe(table)
    for (const i of [0, 77, 128, LOOK_SAMPLES - 1]) {
      const x = i / (LOOK_SAMPLES - 1)
      const row = [...table.subarray(i * 5, i * 5 + 5)]
      const wanted = [...sampleRamp(draw.look.colour, x), sampleCurve(draw.look.opacity, x), sampleCurve(draw.look.size, x)]
      row.forEach((v, k) => expect(v).toBeCloseTo(wanted[k], 6))
    }
  })
  it('a particle cools over its life, and its size has its own ±', () => {
    const young = particleLook(draw, 0, 1, 5)
    const old = particleLook(draw, 1, 1, 5)
    expect(young.colour[2]).toBeGreaterThan(old.colour[2] * 20)
    const sizes = Array.from({ length: 400 }, (_, i) => particleLook(draw, 0, 1, i * 7919).size)
    expect(Math.min(...sizes)).toBeGreaterThanOrEqual(draw.size - draw.sizeVary - 1e-9)
    expect(Math.max(...sizes)).toBeLessThanOrEqual(draw.size + draw.sizeVary + 1e-9)
    expect(new Set(sizes).size).toBeGreaterThan(390)
    expect(particleLook(draw, 9, 1, 5)).toEqual(old)
    expect(particleLook(draw, 0, 0, 5)).toEqual(particleLook(draw, 1, 1, 5))
  })
})

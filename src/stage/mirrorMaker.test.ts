import * as THREE from 'three'
import { describe, expect, it } from 'vitest'
import { looksInto, roughnessOf } from './mirrorMaker'

describe('places of a lobe', () => {
  it.each([0.1, 0.25, 0.5])('have its mean height over the normal, and lie evenly about it (roughness %d)', (roughness) => {
    const looks = looksInto(roughness, 4096, 256)
    // Seen along the normal directions are distributed by D / 4, with t = tan² of the half angle: ∫ cos(2h) over a²/(cos⁴h (a² + t)²) in closed form.
    const a2 = roughness ** 4
    // z = (1 - u - a²u) / (1 - u + a²u) of an even u: its mean is this, of what lies above the horizon.
    const last = 1 / (1 + a2)
    const k = 1 - a2
    const integral = ((1 + a2) / k) * last + ((1 - (1 + a2) / k) / k) * -Math.log(1 - k * last)
    const mean = looks.reduce((sum, l) => sum + l.z, 0) / looks.length
    expect(mean).toBeCloseTo(integral / last, 3)
    for (const l of looks) expect(Math.hypot(l.x, l.y, l.z)).toBeCloseTo(1, 12)
    for (const axis of ['x', 'y'] as const) expect(Math.abs(looks.reduce((sum, l) => sum + l[axis], 0) / looks.length)).toBeLessThan(2e-3)
  })
  it('each look into the level whose texels are as large as its share: four times the looks, one level finer', () => {
    const [few, many] = [16, 64].map((n) => looksInto(0.3, n, 256))
    expect(few[0].level - many[0].level).toBeCloseTo(1, 10)
    // Away from the middle the lobe is thinner and each stands for more.
    for (let i = 1; i < few.length; i++) expect(few[i].level).toBeGreaterThan(few[i - 1].level)
    // A texel of that level covers 4^level · 4π / (6 · 256²); the middle has D(0) / 4 = 1 / (4 π a²) of the lobe in a steradian. Half a level is added.
    const covered = (4 ** (many[0].level - 0.5) * 4 * Math.PI) / (6 * 256 ** 2)
    expect(covered * (1 / (4 * Math.PI * 0.3 ** 4)) * 64).toBeCloseTo(1, 6)
  })
})
it('levels are as rough as materials of three.js take them to be', () => {
  const theirs = (THREE.PMREMGenerator as unknown as { lodToRoughness(lod: number, most: number): number }).lodToRoughness
  for (let level = 0; level <= 5; level++) expect(roughnessOf(level)).toBeCloseTo(theirs(level, 5), 12)
})

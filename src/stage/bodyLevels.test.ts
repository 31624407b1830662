import * as THREE from 'three'
import { describe, expect, it } from 'vitest'
import { evenSphere, isClosed, levelsOf } from '../engine'
import { bodyView, byLevel, compactOf, levelOf, meshesOf } from './bodyLevels'

const ball = evenSphere(0.5, 12)
/** From ten metres, along −z, upright. */
function view(height: number) {
  const camera = new THREE.PerspectiveCamera(40, 16 / 9, 0.1, 100)
  camera.position.set(0, 0, 10)
  camera.lookAt(0, 0, 0)
  camera.updateMatrixWorld()
  camera.updateProjectionMatrix()
  return bodyView(camera, height)
}
const at = (x: number, y: number, z: number, s = 1) => [s, 0, 0, x, 0, s, 0, y, 0, 0, s, z, 1, 1, 1, 0]
const levels = levelsOf(ball)
const level = (place: number[], edge: number, outside: number | null = null, height = 1080) =>
  levelOf(view(height), ball, levels, Float32Array.from(place), 0, edge, outside)

describe('levels by distance', () => {
  it('keep edges as long on the screen as is asked, and no longer', () => {
    // The mean edge of the ball, and a metre at ten metres in pixels.
    const edge = (n: number) => (levels[n].coarser * Math.sqrt((16 * Math.PI) / (Math.sqrt(3) * (ball.indices.length / 3)))) / 2
    for (const far of [2, 5, 20, 60]) {
      const metre = 1080 / 2 / Math.tan((20 * Math.PI) / 180) / (far - 0.5)
      const n = level(at(0, 0, 10 - far), 6)
      expect(edge(n) * metre).toBeLessThan(n ? 6.5 : 99)
      if (n + 1 < levels.length) expect(edge(n + 1) * metre).toBeGreaterThan(5.5)
    }
  })
  it('fall with the distance, rise with the size and the picture, and are all faces where nothing is asked', () => {
    const far = [2, 4, 8, 16, 32, 64].map((d) => level(at(0, 0, 10 - d), 5))
    expect([...far].sort((a, b) => a - b)).toEqual(far)
    expect(far[5]).toBeGreaterThan(far[0] + 2)
    expect(level(at(0, 0, -20, 4), 5)).toBeLessThan(level(at(0, 0, -20), 5))
    expect(level(at(0, 0, -20), 5, null, 4320)).toBeLessThan(level(at(0, 0, -20), 5))
    expect(level(at(0, 0, -90), 0)).toBe(0)
    // Around the lens there is no distance.
    expect(level(at(0, 0, 10), 5)).toBe(0)
  })
  it('leave out what the picture does not show, from the margin on, by its whole extent', () => {
    const half = Math.tan((20 * Math.PI) / 180) * 10
    expect(level(at(0, half - 0.1, 0), 0, 0)).toBe(0)
    expect(level(at(0, half + 0.4, 0), 0, 0)).toBe(0)
    expect(level(at(0, half + 0.7, 0), 0, 0)).toBe(-1)
    expect(level(at(0, half + 0.7, 0), 0, 0.2)).toBe(0)
    expect(level(at(half * (16 / 9) + 0.7, 0, 0), 0, 0)).toBe(-1)
    expect(level(at(0, 0, 12), 0, 0)).toBe(-1)
    expect(level(at(0, 0, 12), 0)).toBe(0)
  })
  it('share out all instances, each to one', () => {
    const data = Float32Array.from(Array.from({ length: 40 }, (_, i) => at(i % 7, 0, 8 - i * 2)).flat())
    const shared = byLevel(view(1080), ball, ball, data, 40, { edge: 5, outside: null })
    expect(shared.reduce((n, l) => n + l.length, 0)).toBe(40 * 16)
    expect(shared.filter((l) => l.length).length).toBeGreaterThan(3)
    for (let i = 0; i < 5; i++) data[i * 16 + 3] = 60
    const left = byLevel(view(1080), ball, ball, data, 40, { edge: 0, outside: 0 })
    expect(left).toHaveLength(1)
    expect(left[0].length / 16).toBeLessThanOrEqual(35)
  })
  it('are meshes of the vertices that they use, at their places', () => {
    meshesOf(ball, ball).forEach((m, n) => {
      expect(isClosed(m)).toBe(true)
      const c = compactOf(levels[n])
      expect(m.positions.length / 3).toBe(n ? c.vertices.length : ball.positions.length / 3)
      for (let i = 0; i < m.indices.length; i += 11)
        expect([...m.positions.subarray(m.indices[i] * 3, m.indices[i] * 3 + 3)]).toEqual([
          ...ball.positions.subarray(levels[n].indices[i] * 3, levels[n].indices[i] * 3 + 3),
        ])
    })
  })
})

import { describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { cosDeg, hash3, mix, sinDeg, sinTurns, unit } from '..'

describe('sines of our own', () => {
  it('agree with the mathematical ones to 1e-11, over many turns', () => {
    for (let i = -4000; i <= 4000; i++) {
      const x = i * 0.0137
      expect(Math.abs(sinTurns(x) - Math.sin(x * 2 * Math.PI))).toBeLessThan(1e-11 + Math.abs(x) * 1e-14)
    }
  })
  it('are exact where people expect it', () => {
    expect(sinDeg(0)).toBe(0)
    expect(cosDeg(0)).toBe(1)
    for (const [deg, sin, cos] of [
      [90, 1, 0],
      [180, 0, -1],
      [270, -1, 0],
      [-90, -1, 0],
      [720, 0, 1],
    ])
      expect([sinDeg(deg) + 0, cosDeg(deg) + 0]).toEqual([sin, cos])
    expect(sinDeg(30)).toBeCloseTo(0.5, 13)
  })
  it('of the kernels err by less than 2.5e-7, cosines by less than 1e-6 (a quarter is added in 32 bits)', async () => {
    const { exports } = await nodeKernels()
    for (let i = -500; i <= 500; i++) {
      const x = Math.fround(i * 0.00731)
      expect(Math.abs(exports.sinTurn(x) - Math.sin(x * 2 * Math.PI))).toBeLessThan(2.5e-7)
      expect(Math.abs(exports.cosTurn(x) - Math.cos(x * 2 * Math.PI))).toBeLessThan(1e-6)
    }
  })
})
describe('the hash', () => {
  it('is the same in TypeScript and in the kernels', async () => {
    const { exports } = await nodeKernels()
    for (let i = 0; i < 2000; i++) {
      const [a, b, c] = [mix(i), mix(i + 7), i % 40]
      expect(exports.hash3(a, b, c) >>> 0).toBe(hash3(a, b, c))
    }
  })
  it('is even in its values, and neighbours have nothing to do with each other', () => {
    const n = 40000
    const bins = new Array(64).fill(0)
    let product = 0
    for (let i = 0; i < n; i++) {
      const u = unit(hash3(12, i, 3))
      bins[Math.floor(u * 64)]++
      product += (u - 0.5) * (unit(hash3(12, i + 1, 3)) - 0.5)
    }
    const chi = bins.reduce((s, b) => s + (b - n / 64) ** 2 / (n / 64), 0)
    expect(chi).toBeLessThan(63 + 5 * Math.sqrt(126))
    expect(Math.abs(product / n) * 12).toBeLessThan(0.03)
  })
  it('flips about half of its bits for one flipped bit', () => {
    let flips = 0
    for (let i = 0; i < 500; i++) {
      for (let b = 0; b < 32; b += 3) {
        let d = hash3(i, 5, 1) ^ hash3((i ^ (1 << b)) >>> 0, 5, 1)
        for (; d; d &= d - 1) flips++
      }
    }
    expect(flips / (500 * 11)).toBeCloseTo(16, 0)
  })
})

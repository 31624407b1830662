import { describe, expect, it } from 'vitest'
import { type Flow, ranksOf, type Solver, type Take } from '..'

const solver = (id: string, gives: Flow[], takes: Take[]): Solver => ({
  id,
  gives,
  takes,
  prepare: () => {},
  step: () => {},
  capture: () => [],
  save: () => ({ bytes: 0 }),
  restore: () => {},
  bytes: 0,
  dispose: () => {},
})
const now = (flow: Flow): Take => ({ flow, when: 'now' })
const before = (flow: Flow): Take => ({ flow, when: 'before' })
const ids = (solvers: Solver[]) => ranksOf(solvers).map((rank) => rank.map((s) => s.id))

describe('the order of solvers', () => {
  it('puts those who take something as it is now behind those who give it, and keeps the order otherwise', () => {
    const sparks = solver('sparks', ['points'], [now('surfaces'), before('points')])
    const rain = solver('rain', ['points'], [before('points')])
    const crate = solver('crate', ['surfaces'], [before('points'), before('surfaces')])
    expect(ids([sparks, rain, crate])).toEqual([['rain', 'crate'], ['sparks']])
    expect(ids([crate, rain, sparks])).toEqual([['crate', 'rain'], ['sparks']])
  })
  it('lets two need each other when one takes the state of the substep before', () => {
    const gas = solver('gas', ['fields'], [before('points')])
    const smoke = solver('smoke', ['points'], [now('fields')])
    expect(ids([smoke, gas])).toEqual([['gas'], ['smoke']])
  })
  it('refuses two that each wait for the other, and names them', () => {
    const a = solver('gas', ['fields'], [now('points')])
    const b = solver('smoke', ['points'], [now('fields')])
    expect(() => ranksOf([a, b])).toThrow('gas, smoke each wait for another')
  })
  it('does not let one wait for itself', () => {
    expect(ids([solver('liquid', ['points', 'fields'], [now('points'), now('fields')])])).toEqual([['liquid']])
  })
})

import { existsSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { checkShot, compile } from '../acts'
import { type Frame, partsOf, pointColumn, volumeCounts } from '../engine'
import { framesOn, withWorld } from '../engine/testing/plans'
import { newObject, newShot } from './create'
import { GAS_RECIPES } from './gasRecipes'
import { pictureOf, RECIPES, type Recipe } from './recipes'

/** The recipe alone in a new shot, or from a ball of that size, after some frames. */
async function made(recipe: Recipe, size: number, fromObject: boolean, frames: number): Promise<Frame> {
  const shot = newShot('Recipe')
  const ball = newObject(shot, 'Ball', { kind: 'sphere', radius: size / 2, detail: 12, build: 'rings' })
  ball.place = [0, 3 * size, 0]
  if (fromObject) shot.objects.push(ball)
  const { objects = [], systems, looks, gases = [], offspring = [] } = recipe.make(shot, fromObject ? ball.id : null, size)
  ball.offspring.push(...offspring)
  shot.objects.push(...objects)
  shot.systems.push(...systems)
  shot.gases.push(...gases)
  shot.shared.looks.push(...looks)
  const checked = checkShot(JSON.parse(JSON.stringify(shot)))
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  const { plan, problems } = compile(checked.shot, new Map())
  expect(problems).toEqual([])
  return withWorld(plan, (w) => framesOn(w, frames))
}
describe.each(RECIPES.map((r) => [r.name, r] as const))('%s', (_, recipe) => {
  it.each([
    [1, false],
    [0.2, true],
    [20, true],
  ])('is a shot that runs, %s m across (from an object: %s)', async (size, fromObject) => {
    const f = await made(recipe, size, fromObject, 40)
    if (recipe.onObject) {
      // It grows on the ball alone.
      const [part] = partsOf(f.parts, 'strips')
      expect(part?.points ?? 0).toBeGreaterThan(fromObject ? 200 : -1)
      return
    }
    const alive = Object.values(f.stats).reduce((n, s) => n + s.alive, 0)
    expect(alive).toBeGreaterThan(4)
    expect(f.notices).toEqual([])
    for (const part of partsOf(f.parts, 'points')) {
      const xs = pointColumn(part, 'px') as Float32Array
      expect(xs.every((x) => Number.isFinite(x) && Math.abs(x) < 40 * size)).toBe(true)
    }
  })
})
it('every recipe has its small picture', () => {
  for (const r of [...RECIPES, ...GAS_RECIPES]) expect(existsSync(`public${pictureOf(r)}`), r.name).toBe(true)
})
it('a recipe twice has names of its own', () => {
  const shot = newShot('Twice')
  for (let k = 0; k < 2; k++) shot.systems.push(...RECIPES[1].make(shot, null, 1).systems)
  expect(new Set(shot.systems.map((s) => s.name)).size).toBe(4)
  for (let k = 0; k < 2; k++) shot.gases.push(...(GAS_RECIPES[0].make(shot, null, 1).gases ?? []))
  expect(new Set(shot.gases.map((g) => g.name)).size).toBe(2)
})
describe.each(GAS_RECIPES.map((r) => [r.name, r] as const))('%s', (_, recipe) => {
  it.each([
    [1, false],
    [20, true],
  ])('is a gas that shows something, %s m across (from an object: %s)', async (size, fromObject) => {
    const f = await made(recipe, size, fromObject, 8)
    const [part] = partsOf(f.parts, 'volume')
    expect(part.tiles).toBeGreaterThan(0)
    const { density, flame } = volumeCounts(part, { density: 2, temperature: 2000, flame: 1, dyeA: 1, dyeB: 1 }, 8)
    expect(Math.max(density.most, flame.most)).toBeGreaterThan(0.3)
    expect(f.notices).toEqual([])
  })
})

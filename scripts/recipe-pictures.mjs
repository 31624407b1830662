// Draws the small pictures of the recipes in the menu of additions, each from the recipe itself in a new shot: into public/recipes. Run it by
// hand when a recipe has changed: node scripts/recipe-pictures.mjs [name …]

import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { pathToFileURL } from 'node:url'
import { build } from 'esbuild'

/** Where each is seen from, and when. */
const SEEN = {
  Sparks: { frame: 30, place: [0, 0.7, 2.6], aim: [0, 0.45, 0] },
  'Rocket and burst': { frame: 48, place: [0, 2, 9.5], aim: [0, 3.6, 0] },
  Streaks: { frame: 40, place: [0, 0.6, 4.6], aim: [0, 0, 0], floor: false },
  'Rain with splashes': { frame: 40, place: [0, 0.45, 2.5], aim: [0, 0.4, 0] },
  Frost: { frame: 60, place: [0, 0.9, 1.5], aim: [0, 0.5, 0], object: true },
  Links: { frame: 90, place: [0, 0.2, 2.9], aim: [0, 0, 0], floor: false },
  Swarm: { frame: 60, place: [0, 0.3, 2.4], aim: [0, 0, 0], floor: false },
  'Camp fire': { frame: 48, place: [0, 0.6, 2.7], aim: [0, 0.62, 0] },
  Candle: { frame: 40, place: [0, 0.75, 3], aim: [0, 0.75, 0] },
  'Chimney smoke': { frame: 70, place: [0, 1, 4.2], aim: [0.4, 0.95, 0] },
  Blast: { frame: 17, place: [0, 0.9, 3.7], aim: [0, 0.95, 0] },
  'Ground mist': { frame: 60, place: [0, 0.75, 2.6], aim: [0, 0.2, 0], stones: true },
  'Smoke ring': { frame: 64, place: [0, 1.1, 3.2], aim: [0, 1.1, 0] },
}
const folder = mkdtempSync(join(tmpdir(), 'fox-ember-recipes-'))
try {
  const outfile = join(resolve('dist'), `recipes-${process.pid}.mjs`)
  await build({
    stdin: {
      contents: `export { RECIPES } from './src/studio/recipes'; export { GAS_RECIPES } from './src/studio/gasRecipes'
        export { newObject, newShot } from './src/studio/create'; export { pictureOf } from './src/studio/recipes'`,
      ...{ resolveDir: process.cwd(), loader: 'ts' },
    },
    ...{ bundle: true, platform: 'node', format: 'esm', target: 'es2022', packages: 'external', outfile },
  })
  const { RECIPES, GAS_RECIPES, newObject, newShot, pictureOf } = await import(pathToFileURL(outfile).href)
  rmSync(outfile)
  mkdirSync('public/recipes', { recursive: true })
  const wanted = process.argv.slice(2)
  for (const recipe of [...RECIPES, ...GAS_RECIPES].filter((r) => !wanted.length || wanted.includes(r.name))) {
    const { frame, place, aim, object, stones, floor = true } = SEEN[recipe.name]
    const shot = newShot(recipe.name)
    if (!floor) shot.objects = []
    Object.assign(shot, { size: { width: 256, height: 144 }, range: { first: 0, last: Math.max(frame, 1) } })
    Object.assign(shot.cameras[0], { place, aim })
    shot.surroundings.colour = [0.008, 0.011, 0.012]
    const ball = newObject(shot, 'Ball', { kind: 'sphere', radius: 0.5, detail: 48, build: 'rings' })
    Object.assign(ball, { place: [0, 0.5, 0], material: { colour: [0.05, 0.09, 0.12], roughness: 0.35, metal: 0, glow: [0, 0, 0] } })
    if (object) shot.objects.push(ball)
    if (stones)
      for (const [x, z, high] of [
        [-0.7, -0.3, 0.5],
        [0.15, 0.1, 0.75],
        [0.8, -0.6, 0.6],
      ]) {
        const stone = newObject(shot, `Stone ${high}`, { kind: 'cone', radius: 0.16, top: 0.1, height: high * 2, segments: 7 })
        Object.assign(stone, { place: [x, high / 2, z], material: { ...ball.material, colour: [0.2, 0.22, 0.2] } })
        stone.roles.collider = true
        shot.objects.push(stone)
      }
    // Light from behind shows how thick smoke is.
    shot.lights.push({
      ...shot.lights[0],
      id: 'rim',
      name: 'Rim',
      place: [-2.5, 2.6, -3],
      strength: 50,
      colour: [0.75, 0.85, 1],
      angle: 50,
    })
    const made = recipe.make(shot, object ? ball.id : null, 1)
    ball.offspring.push(...(made.offspring ?? []))
    for (const key of ['objects', 'systems', 'gases']) shot[key].push(...(made[key] ?? []))
    shot.shared.looks.push(...made.looks)
    const path = join(folder, 'shot.json')
    writeFileSync(path, JSON.stringify(shot))
    const args = ['render', path, '--out', folder, '--frames', `${frame}-${frame}`, '--size', '512x288', '--opaque', '--threads', '2']
    execFileSync(process.execPath, ['dist/ember.mjs', ...args], {
      env: { ...process.env, EMBER_ROOT: process.cwd() },
      stdio: ['ignore', 'ignore', 'inherit'],
    })
    const png = join(folder, `${String(frame).padStart(4, '0')}.png`)
    execFileSync('ffmpeg', [
      '-loglevel',
      'error',
      '-y',
      '-i',
      png,
      '-vf',
      'scale=144:81:flags=area',
      '-q:v',
      '3',
      join('public', pictureOf(recipe)),
    ])
    process.stdout.write(`${recipe.name}\n`)
  }
} finally {
  rmSync(folder, { recursive: true, force: true })
}

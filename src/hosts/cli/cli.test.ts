import { spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
// @ts-expect-error: a plain script without types
import { build } from '../../../scripts/prepare.mjs'
import { change, demoDocument } from '../../acts/testing/shots'
import { openVdb, readTree } from '../../formats/vdb'
import { parseRegion, parseSize } from './render'
import { parseFrames } from './simulate'

const folder = mkdtempSync(join(tmpdir(), 'ember-cli-'))
beforeAll(() => build(() => {}, { web: false }))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const SHOT = 'demo/anvil-strike/shot.json'
const ember = (...args: string[]) => {
  const r = spawnSync(process.execPath, ['dist/ember.mjs', ...args], {
    encoding: 'utf8',
    env: { ...process.env, EMBER_ROOT: process.cwd() },
    maxBuffer: 1 << 28,
  })
  return { code: r.status, out: r.stdout, err: r.stderr }
}
const file = (name: string, content: unknown): string => {
  const path = join(folder, name)
  writeFileSync(path, typeof content === 'string' ? content : JSON.stringify(content))
  return path
}
const lines = (out: string) =>
  out
    .trimEnd()
    .split('\n')
    .map((l) => JSON.parse(l))

it('ends quietly when its reader has seen enough', () => {
  const piped = (command: string) =>
    spawnSync('sh', ['-c', command], { encoding: 'utf8', env: { ...process.env, EMBER_ROOT: process.cwd() }, maxBuffer: 1 << 28 })
  const r = piped(`${process.execPath} dist/ember.mjs simulate ${SHOT} --frames 0-30 --marks | head -n 1`)
  expect(JSON.parse(r.stdout).frame).toBe(0)
  expect(r.stderr).toBe('')
})
it('draws a frame as a picture of the size that was asked for', () => {
  const out = join(folder, 'drawn')
  const doc = change(demoDocument(), 'objects', [])
  doc.lights = []
  const shot = file('drawn.json', {
    ...doc,
    systems: [{ ...(doc.systems as object[])[0], birth: [], whole: { movement: [], contact: [], offspring: [], look: [] } }],
  })
  const r = ember('render', shot, '--out', out, '--frames', '2-2', '--size', '64x36', '--threads', '1')
  expect([r.code, r.err]).toEqual([0, expect.not.stringContaining('rror')])
  const [name] = readdirSync(out)
  const png = readFileSync(join(out, name))
  expect([png.toString('latin1', 1, 4), png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual(['PNG', 64, 36])
})
describe('ember check', () => {
  it('says ok', () => {
    expect(ember('check', SHOT)).toEqual({ code: 0, out: 'ok\n', err: '' })
  })
  it('says one line a problem, with its place, and exits with 1', () => {
    const doc = change(change(demoDocument(), 'systems.0.birth.1.rate', -1), 'rate.den', 0)
    const r = ember('check', file('bad.json', doc))
    expect(r.code).toBe(1)
    expect((r.err + r.out).trimEnd().split('\n')).toEqual(['rate.den: must be at least 1', 'systems[0].birth[1].rate: must be at least 0'])
  })
  it.each([
    ['cut.json', '{"version":1,', /cut\.json: not JSON: /],
    ['list.json', '[]', /the document must be an object/],
    ['new.json', '{"version":99}', /version: 99 is newer than this Fox Ember/],
    ['text.json', '"x"', /the document must be an object/],
  ])('refuses %s', (name, text, message) => {
    const r = ember('check', file(name, text))
    expect(r.code).toBe(1)
    expect(r.err + r.out).toMatch(message)
    expect(r.err).not.toMatch(/at .*\.mjs/)
  })
  it('refuses a file that is not there, and a folder', () => {
    expect(ember('check', '/nowhere/shot.json')).toMatchObject({ code: 1, err: '/nowhere/shot.json: there is no such file\n' })
    expect(ember('check', 'demo')).toMatchObject({ code: 1, err: 'demo: is a folder; name the shot document in it\n' })
  })
})
describe('ember schema', () => {
  it('prints JSON Schema that names every act', () => {
    const r = ember('schema')
    expect(r.code).toBe(0)
    const schema = JSON.parse(r.out)
    expect(schema.type).toBe('object')
    // A line for each definition, and no more than an editor reads at once.
    expect(r.out.split('\n').length).toBeGreaterThan(Object.keys(schema.$defs).length)
    expect(r.out.length).toBeLessThan(300_000)
    for (const kind of ['steady', 'burst', 'gravity', 'drag', 'turbulence', 'bounce', 'die', 'overLife', 'dash', 'bloom'])
      expect(r.out).toContain(`"${kind}"`)
  })
})
describe('ember simulate', () => {
  it('prints a line a frame and a summary, the same at one thread and two', () => {
    const strip = (l: { ms?: number }) => ({ ...l, ms: 0 })
    const one = lines(ember('simulate', SHOT, '--frames', '0-12').out)
    expect(one).toHaveLength(14)
    expect(one[9]).toMatchObject({
      frame: 9,
      systems: { sparks: { alive: expect.any(Number), born: expect.any(Number), died: expect.any(Number), contacts: expect.any(Number) } },
    })
    expect(one[13].summary).toMatchObject({ frames: 13, threads: 1, peak_bytes: expect.any(Number), ms_total: expect.any(Number) })
    const two = lines(ember('simulate', SHOT, '--frames', '0-12', '--threads', '2').out)
    expect(two.slice(0, 13).map(strip)).toEqual(one.slice(0, 13).map(strip))
    expect(two[13].summary.threads).toBe(2)
    // Nobody appears from nothing.
    let alive = 0
    for (const l of one.slice(0, 13)) {
      const s = l.systems.sparks
      expect(s.alive).toBe(alive + s.born - s.died)
      alive = s.alive
    }
    expect(alive).toBeGreaterThan(6000)
  })
  it('reads a shot from a pipe, reports every n-th frame, and writes the columns that were chosen, binary too', () => {
    const csv = join(folder, 'few')
    const r = spawnSync(
      process.execPath,
      [
        'dist/ember.mjs',
        'simulate',
        '-',
        '--frames',
        '8-12',
        '--every',
        '2',
        '--out',
        csv,
        '--columns',
        'id,px',
        '--assets',
        'demo/anvil-strike/assets',
        '--contacts',
      ],
      {
        encoding: 'utf8',
        env: { ...process.env, EMBER_ROOT: process.cwd() },
        input: readFileSync(SHOT),
      },
    )
    expect(r.status).toBe(0)
    expect(lines(r.stdout).map((l) => l.frame)).toEqual([8, 10, 12, undefined])
    // What the simulation throws is where it is.
    expect(lines(r.stdout)[0].objects.slug).toHaveLength(12)
    expect(readdirSync(csv)).toEqual(['08', '10', '12'].flatMap((n) => [`sparks.00${n}.contacts.csv`, `sparks.00${n}.csv`]))
    const [head, ...rows] = readFileSync(join(csv, 'sparks.0012.csv'), 'utf8').trimEnd().split('\n')
    expect(head).toBe('id,px')
    const [names, ...contacts] = readFileSync(join(csv, 'sparks.0012.contacts.csv'), 'utf8').trimEnd().split('\n')
    expect(names).toBe('id,ago,x,y,z,speed,with')
    expect(contacts.length).toBeGreaterThan(100)
    for (const c of contacts) {
      const [, ago, , y, , speed, what] = c.split(',')
      expect(Number(ago)).toBeLessThanOrEqual(1 / 24 + 1e-4)
      expect(Number(y)).toBeGreaterThan(-1e-3)
      expect(Number(speed)).toBeGreaterThanOrEqual(0)
      expect(['anvil', 'kiln', 'stump', 'floor']).toContain(what)
    }
    const npz = join(folder, 'binary')
    expect(ember('simulate', SHOT, '--frames', '12', '--out', npz, '--format', 'npz', '--columns', 'id,px').code).toBe(0)
    const files = unzipSync(readFileSync(join(npz, 'sparks.0012.npz')))
    const array = files['px.npy']
    const px = new DataView(array.buffer, array.byteOffset + 10 + array[8] + array[9] * 256)
    rows.forEach((row, i) => expect(Math.fround(Number(row.split(',')[1]))).toBe(px.getFloat32(i * 4, true)))
  })
  it('writes a gas as a file of sparse grids a frame, the same numbers in every packing, its velocity in metres a second', () => {
    const shot = JSON.parse(readFileSync('demo/chimney-and-wind/shot.json', 'utf8'))
    for (const g of shot.gases) Object.assign(g, { voxel: g.voxel * 3, detail: 1 })
    shot.warm = 0.5
    const file = join(folder, 'smoke.json')
    writeFileSync(file, JSON.stringify(shot))
    const trees = [
      ['--packing', 'blosc'],
      ['--packing', 'zip', '--bits', '32'],
    ].map((how, i) => {
      const out = join(folder, `smoke${i}`)
      const r = ember(
        'simulate',
        file,
        '--assets',
        'demo/chimney-and-wind/assets',
        '--frames',
        '12',
        '--out',
        out,
        '--format',
        'vdb',
        ...how,
      )
      expect(r.err).toBe('')
      const name = `${shot.gases[0].id}.0012.vdb`
      expect(readdirSync(out)).toContain(name)
      const bytes = new Uint8Array(readFileSync(join(out, name)))
      const opened = openVdb(bytes)
      if (!opened.ok) throw new Error(opened.problem.message)
      expect(opened.value.metadata.frame).toBe(12)
      return new Map(
        opened.value.grids.map((g) => {
          const t = readTree(bytes, opened.value, g)
          if (!t.ok) throw new Error(t.problem.message)
          return [g.name, t.value]
        }),
      )
    })
    const [half, whole] = trees
    expect([...half.keys()]).toEqual(expect.arrayContaining(['density', 'temperature', 'vel']))
    expect(half.get('density')?.count).toBeGreaterThan(3)
    for (const [name, tree] of half) {
      const other = whole.get(name)
      expect(other?.masks).toEqual(tree.masks)
      const far = tree.values.reduce((m, v, i) => Math.max(m, Math.abs(v - (other?.values[i] ?? 0)) / Math.max(1e-3, Math.abs(v))), 0)
      expect(far).toBeLessThan(name === 'vel' ? 0.06 : 0.001)
    }
    const speed = half.get('vel')?.values.reduce((m, v) => Math.max(m, Math.abs(v)), 0) ?? 0
    expect(speed).toBeGreaterThan(0.2)
    expect(speed).toBeLessThan(50)
  })
  it('does without pictures that only light, which drawing does not', () => {
    const doc = JSON.parse(readFileSync(SHOT, 'utf8'))
    const shot = file('lit.json', { ...doc, objects: [], systems: [], forces: [], gases: [] })
    const [simulated, drawn] = [ember('simulate', shot, '--frames', '0-0'), ember('render', shot, '--frames', '0-0', '--out', folder)]
    expect([simulated.code, simulated.err]).toEqual([0, ''])
    expect([drawn.code, drawn.err]).toEqual([1, expect.stringMatching(/^asset .*\.hdr \(.*is not there/)])
  })
  it('says what does nothing, and which frames lie past the shot', () => {
    const shot = file('short.json', { ...JSON.parse(readFileSync(SHOT, 'utf8')), range: { first: 0, last: 5 }, opens: null })
    const r = ember(
      'simulate',
      shot,
      '--assets',
      'demo/anvil-strike/assets',
      '--frames',
      '0-9',
      '--every',
      '5',
      '--format',
      'npz',
      '--columns',
      'id',
    )
    expect(r.code).toBe(0)
    expect(r.err).toMatch(/--format does nothing without --out/)
    expect(r.err).toMatch(/--columns does nothing without --out/)
    expect(r.err).toMatch(/frames 6-9 lie past the shot’s last frame, 5/)
  })
  it('writes a CSV file a frame and system, byte for byte the same on two threads', () => {
    const out = join(folder, 'one')
    const again = join(folder, 'two')
    expect(ember('simulate', SHOT, '--frames', '8-9', '--out', out, '--format', 'csv').code).toBe(0)
    expect(ember('simulate', SHOT, '--frames', '8-9', '--out', again, '--threads', '2').code).toBe(0)
    expect(readdirSync(out)).toEqual(['sparks.0008.csv', 'sparks.0009.csv'])
    for (const name of readdirSync(out)) expect(readFileSync(join(again, name), 'utf8')).toBe(readFileSync(join(out, name), 'utf8'))
    const [head, ...rows] = readFileSync(join(out, 'sparks.0009.csv'), 'utf8').trimEnd().split('\n')
    expect(head).toBe('id,age,life,px,py,pz,vx,vy,vz,size,r,g,b,a,phase')
    expect(rows.length).toBeGreaterThan(5000)
    for (const r of rows.slice(0, 50)) expect(r.split(',').every((v) => Number.isFinite(Number(v)))).toBe(true)
  })
  it.each([
    [['--frames', '5-2'], /--frames: 5-2 must lie from 0 on/],
    [['--frames', 'x'], /--frames: “x” is not A-B/],
    [['--threads', '0'], /must be a whole number from 1 to 64/],
    [['--out', '/tmp/x', '--format', 'xml'], /--format: “xml” is not known; csv, npz, vdb are/],
    [['--out', '/tmp/x', '--format', 'vdb', '--grids', 'heat'], /--grids: “heat” is not a grid; there are density/],
    [['--bits', '8'], /--bits: “8” is neither 16 nor 32/],
    [['--packing', 'lzma'], /--packing: “lzma” is not a packing; there are blosc, zip, none/],
    [['--columns', 'px,speed'], /--columns: “speed” is not a column; there are id, age/],
    [['--every', '0'], /must be a whole number from 1 on/],
    [
      ['--assets', '/nowhere'],
      /asset anvil\.obj \([0-9a-f]{12}…\) is not there; put it into assets\/ beside the shot or name a folder with --assets/,
    ],
    [['--speed', '3'], /unknown option/],
  ])('refuses %j', (args, message) => {
    const r = ember('simulate', SHOT, ...args)
    expect(r.code).toBe(1)
    expect(r.err).toMatch(message)
  })
  it('says on the side what the run has to say: a limit that was reached', () => {
    const doc = change(demoDocument(), 'systems.0.limit', 1000)
    writeFileSync(join(folder, 'limit.json'), JSON.stringify(doc))
    const r = ember('simulate', join(folder, 'limit.json'), '--assets', 'demo/anvil-strike/assets', '--frames', '0-10')
    expect(r.code).toBe(0)
    expect(r.err).toBe('frame 7: Sparks reached its limit of 1,000 particles; births wait until some have died\n')
    expect(
      Math.max(
        ...lines(r.out)
          .slice(0, 11)
          .map((l) => l.systems.sparks.alive),
      ),
    ).toBe(1000)
  })
})
describe('arguments', () => {
  it('frames and sizes', () => {
    expect(parseFrames(undefined, 3, 9)).toEqual([3, 9])
    expect(parseFrames('7', 3, 9)).toEqual([7, 7])
    expect(parseSize('1280x720', { width: 1, height: 1 })).toEqual({ width: 1280, height: 720 })
    expect(() => parseSize('8x8', { width: 1, height: 1 })).toThrow('--size: “8x8” is not WxH from 16x16 to 8192x8192')
  })
  it('parts of a picture, which lie within it', () => {
    const size = { width: 1280, height: 720 }
    expect(parseRegion(undefined, size)).toBeNull()
    expect(parseRegion('640x360+320+180', size)).toEqual({ left: 320, top: 180, width: 640, height: 360 })
    for (const wrong of ['640x360', '640x360+700+180', '640x360+0+361', '0x10+0+0', '-5x10+0+0'])
      expect(() => parseRegion(wrong, size)).toThrow(`--region: “${wrong}” is not WxH+X+Y within 1280x720, as in 640x360+320+180`)
  })
  it.each([
    [['--format', 'png,gif'], /--format: “gif” is none of png, png16, exr, webm, mp4, mov/],
    [['--format', 'mp4', '--region', '31x20+0+0'], /--format: movies need an even width and height/],
    [['--format', 'exr', '--sheet'], /--sheet: a contact sheet is made of PNG files; add --format png/],
    [['--passes', 'lights'], /--passes: passes are channels of EXR files; add --format exr/],
  ])('of a render that cannot be: %j', (args, message) => {
    const r = ember('render', SHOT, '--out', join(folder, 'no'), ...args)
    expect(r.code).toBe(1)
    expect(r.err).toMatch(message)
  })
  it('of a loop: the run says how far its ends are apart', () => {
    const doc = change(change(change(demoDocument(), 'range.last', 11), 'loop', { cross: 0 }), 'systems.0.birth.0.count', 200)
    writeFileSync(join(folder, 'loop.json'), JSON.stringify(doc))
    const r = ember('simulate', join(folder, 'loop.json'), '--assets', 'demo/anvil-strike/assets', '--frames', '11-11')
    expect(r.err).toBe('')
    expect(lines(r.out).at(-1)).toMatchObject({ ends: { alone: 0, metres: 0, gas: 0 } })
  })
})

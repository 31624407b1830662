import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { HOLD_COLUMNS, MEET_COLUMNS } from '../../engine'
import { grouped } from '../../shot'
import { benchFinish } from './benchFinish'
import { benchGas, GAS_CELLS } from './benchGas'
import { benchLinks, LINKED } from './benchLinks'
import { benchMarch, benchTufts, MARCH_PIXELS, MARCH_VOXELS } from './benchMarch'
import { benchNeighbours } from './benchNeighbours'
import { chase, circle, drag, flockOf, gravity, inPhase, stay, turbulence, volume, vortex, wind } from './benchPlan'
import { benchSort } from './benchSort'
import { benchSurface } from './benchSurface'
import { benchTrails, STRIP_POINTS, TRAILS_LIVE } from './benchTrails'
import { benchVolumes } from './benchVolumes'
import { type BenchWorld, bumpySphere, cloud, inCube, openWorld } from './benchWorld'

interface Kernel {
  name: string
  count: number
  /** The program among the native references that does the same work; '' where there is none. */
  native: string
  /** Its field for an item, where that is not ns_per_item. */
  field?: string
  /** The kernel that does the same without what this one is about: what it costs over that is measured step by step beside it. */
  over?: string
  make(threads: number): Promise<BenchWorld>
}
const MILLION = 1 << 20
/** Steps of a kernel, and of the one it is measured beside. */
const PAIRS = 101
const KERNELS: Kernel[] = [
  {
    name: 'plain',
    count: MILLION,
    native: 'plain_step',
    make: (t) => openWorld({ count: MILLION, threads: t, forces: [gravity, drag], life: 1e6, dt: 0.01 }),
  },
  {
    name: 'turbulence',
    count: MILLION,
    native: 'noise_step',
    make: (t) => openWorld({ count: MILLION, threads: t, forces: [turbulence, gravity, drag], life: 1e6, dt: 0.01 }),
  },
  {
    name: 'forces',
    count: MILLION,
    native: '',
    make: (t) =>
      openWorld({ count: MILLION, threads: t, forces: [gravity, wind, drag, turbulence, vortex], life: 1e6, dt: 1 / 24, floor: true }),
  },
  // The same motion in five phases without turns, with ten conditions and five turns, and with nine phases that nobody is in.
  ...(['phases', 'turns', 'idle'] as const).map(
    (name): Kernel => ({
      name,
      count: 100_000,
      native: '',
      ...(name === 'phases' ? {} : { over: name === 'turns' ? 'phases' : 'alone' }),
      make: (t) =>
        openWorld({
          count: 100_000,
          threads: t,
          forces: [
            gravity,
            drag,
            turbulence,
            ...(name === 'idle'
              ? Array.from({ length: 9 }, (_, k) => inPhase(turbulence, k + 1))
              : Array.from({ length: 5 }, (_, k) => inPhase(gravity, k))),
          ],
          life: 1e6,
          dt: 0.01,
          phases: name === 'idle' ? 1 : 5,
          turns: name === 'turns' ? circle : [],
        }),
    }),
  ),
  {
    name: 'alone',
    count: 100_000,
    native: '',
    make: (t) => openWorld({ count: 100_000, threads: t, forces: [gravity, drag, turbulence], life: 1e6, dt: 0.01 }),
  },
  {
    name: 'volume',
    count: MILLION,
    native: '',
    make: (t) => openWorld({ count: MILLION, threads: t, forces: [volume, gravity, drag], life: 1e6, dt: 0.01 }),
  },
  { name: 'sort', count: MILLION, native: 'depth_sort', make: (t) => benchSort(MILLION, t) },
  { name: 'neighbours', count: 1 << 18, native: 'neighbours', make: (t) => benchNeighbours(1 << 18, t) },
  {
    name: 'flock',
    count: 100_000,
    native: '',
    make: (t) => openWorld({ count: 100_000, threads: t, forces: [flockOf(100_000)], life: 1e6, dt: 1 / 24, start: inCube }),
  },
  {
    name: 'pairs',
    count: 100_000,
    native: '',
    make: (t) =>
      openWorld({
        count: 100_000,
        threads: t,
        forces: [gravity],
        life: 1e6,
        dt: 1 / 96,
        floor: true,
        start: inCube,
        extraColumns: MEET_COLUMNS,
        meet: { radius: 0.009, radiusVary: 0, restitution: 0.2, friction: 0.3, rounds: 6 },
      }),
  },
  {
    name: 'chase',
    count: 1 << 18,
    native: '',
    make: (t) =>
      openWorld({
        count: 1 << 18,
        threads: t,
        forces: [chase],
        life: 1e6,
        dt: 1 / 60,
        mesh: bumpySphere(5, 0.1),
        moving: true,
        target: true,
        start: cloud,
        extraColumns: HOLD_COLUMNS,
      }),
  },
  {
    name: 'stay',
    count: 1 << 18,
    native: '',
    make: (t) =>
      openWorld({
        count: 1 << 18,
        threads: t,
        forces: [stay],
        life: 1e6,
        dt: 1 / 60,
        mesh: bumpySphere(5, 0.1),
        moving: true,
        target: true,
        start: cloud,
        extraColumns: HOLD_COLUMNS,
      }),
  },
  { name: 'light', count: MARCH_VOXELS ** 3, native: 'light_grid', make: (t) => benchMarch('light', t) },
  { name: 'tufts', count: MARCH_VOXELS ** 3, native: 'light_grid', make: (t) => benchTufts(t) },
  { name: 'march', count: MARCH_PIXELS, native: 'volume_march', make: (t) => benchMarch('march', t) },
  { name: 'gas', count: GAS_CELLS ** 3, native: 'gas_step', make: (t) => benchGas(t) },
  { name: 'detail', count: 8 * GAS_CELLS ** 3, native: 'detail_noise', make: (t) => benchGas(t, 'ball') },
  { name: 'detail, full', count: 8 * GAS_CELLS ** 3, native: 'detail_noise', make: (t) => benchGas(t, 'box') },
  { name: 'links', count: LINKED, native: 'links', make: (t) => benchLinks(t) },
  { name: 'trails', count: TRAILS_LIVE, native: 'trail_record', make: (t) => benchTrails(t, 'recorded') },
  { name: 'strips', count: STRIP_POINTS, native: 'trail_record', field: 'ns_per_point', make: (t) => benchTrails(t, 'built') },
  { name: 'strips-frame', count: STRIP_POINTS, native: 'trail_record', field: 'ns_per_point', make: (t) => benchTrails(t, 'framed') },
  {
    name: 'distance',
    count: 1 << 18,
    native: 'sdf_collide',
    make: (t) =>
      openWorld({ count: 1 << 18, threads: t, forces: [], life: 1e6, dt: 1 / 60, mesh: bumpySphere(5, 0.1), cells: 108, start: cloud }),
  },
  {
    name: 'mesh',
    count: 1 << 18,
    native: 'mesh_collide',
    make: (t) => openWorld({ count: 1 << 18, threads: t, forces: [], life: 1e6, dt: 1 / 60, mesh: bumpySphere(5, 0.1), start: cloud }),
  },
]
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1]
const round = (v: number, digits = 2): number => Number(v.toFixed(digits))

/** Nanoseconds per particle and step, the best of `rounds`, as the references take theirs. The state is brought back before every round. */
async function measure(k: Kernel, threads: number, rounds: number): Promise<number> {
  const world = await k.make(threads)
  try {
    const times: number[] = []
    for (let i = 0; i <= rounds; i++) {
      world.reset()
      const start = performance.now()
      const own = world.step()
      const ms = own ?? performance.now() - start
      if (i > 0) times.push((ms * 1e6) / k.count)
    }
    return Math.min(...times)
  } finally {
    world.dispose()
  }
}
/**
 * How much dearer a step of one kernel is than of another, in hundredths: the median of pairs, a step of each by turns. One after the other they
 * would meet the machine at two speeds.
 */
async function dearer(k: Kernel, base: Kernel, threads: number, pairs: number): Promise<number> {
  const worlds = [await k.make(threads), await base.make(threads)]
  try {
    const ratios: number[] = []
    for (let i = 0; i <= pairs; i++) {
      const [own, without] = worlds.map((world) => {
        world.reset()
        const start = performance.now()
        return world.step() ?? performance.now() - start
      })
      if (i > 0) ratios.push(own / without)
    }
    return round((median(ratios) - 1) * 100, 1)
  } finally {
    for (const world of worlds) world.dispose()
  }
}
/** Builds the references, or says why there are none. */
function references(kernels: Kernel[]): { run: (k: Kernel, threads: number) => number | null; dispose: () => void; why: string | null } {
  const folder = [process.env.EMBER_BENCH, join(process.env.EMBER_ROOT ?? '.', '../shared/bench')].find(
    (f) => f && existsSync(join(f, 'build.sh')),
  )
  const none = (why: string) => ({ run: () => null, dispose: () => {}, why })
  if (!kernels.some((k) => k.native)) return { ...none(''), why: null }
  if (!folder) return none('no folder with native references')
  if (spawnSync('g++', ['--version'], { stdio: 'ignore' }).status !== 0) return none('no C++ compiler')
  const out = mkdtempSync(join(tmpdir(), 'ember-bench-'))
  try {
    execFileSync('sh', [resolve(folder, 'build.sh'), ...kernels.flatMap((k) => k.native || [])], {
      env: { ...process.env, OUT: out },
      stdio: 'pipe',
    })
  } catch (error) {
    rmSync(out, { recursive: true, force: true })
    return none(
      `the native references did not build: ${
        String((error as { stderr?: Buffer }).stderr ?? error)
          .trim()
          .split('\n')[0]
      }`,
    )
  }
  return {
    why: null,
    run: (k, threads) =>
      !k.native
        ? null
        : (JSON.parse(execFileSync(join(out, 'sse', k.native), [String(threads)], { encoding: 'utf8' })) as Record<string, number>)[
            k.field ?? 'ns_per_item'
          ],
    dispose: () => rmSync(out, { recursive: true, force: true }),
  }
}

/**
 * A JSON line a kernel: ns per particle at 1 and 2 threads, the native 128-bit build of the same work in the same run, and their ratios: of
 * each the best of its rounds, then the median of three turns. Ours and the reference take turns, so that a slow minute of the machine hits
 * both.
 */
export async function bench(o: { json?: boolean; only?: string }): Promise<void> {
  const kernels = KERNELS.filter((k) => !o.only || k.name === o.only)
  const native = references(kernels)
  if (native.why) process.stderr.write(`bench: ${native.why}; only our own times follow\n`)
  try {
    for (const k of kernels) {
      const one: number[] = []
      const two: number[] = []
      const theirs: number[] = []
      const theirTwo: number[] = []
      for (let turn = 0; turn < 3; turn++) {
        one.push(await measure(k, 1, 7))
        two.push(await measure(k, 2, 7))
        const n = native.run(k, 1)
        const n2 = native.run(k, 2)
        if (n !== null) theirs.push(n)
        if (n2 !== null) theirTwo.push(n2)
      }
      const base = k.over && KERNELS.find((other) => other.name === k.over)
      const line = {
        kernel: k.name,
        particles: k.count,
        ns_1_thread: round(median(one)),
        ns_2_threads: round(median(two)),
        speedup_2_threads: round(median(one) / median(two)),
        ...(theirs.length
          ? {
              native: `${k.native}, sse`,
              native_ns_1_thread: round(median(theirs)),
              native_ns_2_threads: round(median(theirTwo)),
              ratio_to_native: round(median(one) / median(theirs)),
              ratio_2_threads: round(median(two) / median(theirTwo)),
            }
          : {}),
        ...(base
          ? {
              over: base.name,
              dearer_percent_1_thread: await dearer(k, base, 1, PAIRS),
              dearer_percent_2_threads: await dearer(k, base, 2, PAIRS),
            }
          : {}),
        cores: cpus().length,
      }
      if (o.json) process.stdout.write(`${JSON.stringify(line)}\n`)
      else
        process.stdout.write(
          `${k.name.padEnd(12)} ${String(line.ns_1_thread).padStart(8)} ns on one thread ${String(line.ns_2_threads).padStart(8)} ns on two (${line.speedup_2_threads} times faster)${theirs.length ? `   native ${line.native_ns_1_thread} and ${line.native_ns_2_threads} ns, ratio ${line.ratio_to_native} and ${line.ratio_2_threads}` : ''}${base ? `   ${line.dearer_percent_1_thread} and ${line.dearer_percent_2_threads} % dearer than ${base.name}` : ''}\n`,
        )
    }
    if (!o.only || o.only === 'finish')
      await benchFinish((line) => {
        const { kernel, ms, best, width, height } = line
        process.stdout.write(
          o.json ? `${JSON.stringify(line)}\n` : `${String(kernel).padEnd(20)} ${width} × ${height}: ${ms} ms, best ${best}\n`,
        )
      })
    if (!o.only || o.only === 'volumes')
      await benchVolumes((line) => {
        const { kernel, what, threads, ms, best } = line
        process.stdout.write(
          o.json
            ? `${JSON.stringify(line)}\n`
            : `${kernel.padEnd(16)} ${what}, ${threads} thread${threads > 1 ? 's' : ''}: ${ms} ms, best ${best}\n`,
        )
      })
    if (!o.only || o.only === 'surface') {
      for (const line of await benchSurface()) {
        const { kernel, triangles, ...figures } = line
        process.stdout.write(
          o.json
            ? `${JSON.stringify({ ...line, threads: 1 })}\n`
            : `${kernel.padEnd(12)} ${grouped(triangles)} triangles, one thread: ${Object.entries(figures)
                .map(([k, v]) => `${k.replaceAll('_', ' ')} ${typeof v === 'number' ? grouped(v) : v}`)
                .join(', ')}\n`,
        )
      }
    }
  } finally {
    native.dispose()
  }
}

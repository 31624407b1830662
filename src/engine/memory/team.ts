import { CONTROL } from './layout'

/** What the WebAssembly module exports. Pointers are byte offsets in the memory. */
export interface KernelExports {
  work(job: number, thread: number): void
  birth(record: number): void
  sumDigits(record: number): void
  survivors(dead: number, count: number, map: number): number
  insideMesh(nodes: number, leaves: number, x: number, y: number, z: number, reach: number, stack: number, hit: number): number
  castMesh(
    nodes: number,
    leaves: number,
    both: number,
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    stack: number,
    hit: number,
  ): number
  castMoving(
    nodes: number,
    leaves: number,
    ends: number,
    both: number,
    s: number,
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    skin: number,
    stack: number,
    hit: number,
  ): number
  castBall(
    nodes: number,
    leaves: number,
    both: number,
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    r: number,
    stack: number,
    hit: number,
  ): number
  closestPoint(nodes: number, leaves: number, x: number, y: number, z: number, stack: number, hit: number): number
  isBehind(nodes: number, leaves: number, x: number, y: number, z: number, stack: number, hit: number): number
  distanceAt(grid: number, x: number, y: number, z: number): number
  sumBlocks(grid: number): void
  spanOf(columns: number, count: number, out: number): void
  sumCells(grid: number): void
  linkBegins(record: number): number
  partTrails(record: number, columns: number, count: number, map: number, gone: number): number
  settleTrails(record: number, count: number): void
  refit(
    nodes: number,
    nodeCount: number,
    leaves: number,
    ends: number,
    leafCount: number,
    triangles: number,
    indices: number,
    from: number,
    to: number,
  ): void
  buildTree(
    positions: number,
    indices: number,
    count: number,
    boxes: number,
    order: number,
    nodes: number,
    leaves: number,
    triangles: number,
    scratch: number,
  ): number
  sumAreas(
    positions: number,
    indices: number,
    count: number,
    amounts: number,
    areas: number,
    guide: number,
    guides: number,
    axes: number,
  ): number
  hash3(seed: number, id: number, channel: number): number
  sinTurn(x: number): number
  cosTurn(x: number): number
}
/** Threads that work on one job together. Hosts make teams; the engine only hands out jobs. */
export interface Team {
  readonly threads: number
  /** From now on at most so many of them work, at least one; the results are the same. */
  limit(threads: number): void
  /** Runs `work(job)` on all threads and returns when all are done. */
  run(job: number): void
  dispose(): void
}
export interface KernelHost {
  readonly memory: WebAssembly.Memory
  readonly exports: KernelExports
  readonly team: Team
}

export function singleTeam(exports: KernelExports): Team {
  return { threads: 1, limit: () => {}, run: (job) => exports.work(job, 0), dispose: () => {} }
}

/**
 * The generation word: how many jobs there were so far, above the number of threads that take part in the newest, so that both are read at
 * once.
 */
const MEMBERS_BITS = 7
const MEMBERS = (1 << MEMBERS_BITS) - 1

/** The leading side of a team of at most 127 threads over shared memory: helpers wait on the generation word. */
export function sharedTeam(
  memory: WebAssembly.Memory,
  exports: KernelExports,
  threads: number,
  onDispose: () => void,
  /** In a page's own thread, which may not sleep, the leader watches until the others are done. */
  spins = false,
): Team {
  const words = new Int32Array(memory.buffer, 0, 256)
  const at = (o: number) => o >> 2
  let disposed = false
  let members = threads
  let jobs = 0
  const announce = () => {
    Atomics.store(words, at(CONTROL.generation), (++jobs << MEMBERS_BITS) | members)
    Atomics.notify(words, at(CONTROL.generation))
  }
  return {
    threads,
    limit(count) {
      members = Math.max(1, Math.min(threads, count))
    },
    run(job) {
      if (members === 1) return exports.work(job, 0)
      Atomics.store(words, at(CONTROL.job), job)
      Atomics.store(words, at(CONTROL.busy), members - 1)
      announce()
      exports.work(job, 0)
      for (let left = Atomics.load(words, at(CONTROL.busy)); left > 0; left = Atomics.load(words, at(CONTROL.busy)))
        if (!spins) Atomics.wait(words, at(CONTROL.busy), left, 1000)
    },
    dispose() {
      if (disposed) return
      disposed = true
      Atomics.store(words, at(CONTROL.quit), 1)
      announce()
      onDispose()
    },
  }
}
/** What a helper thread runs until the team is disposed. */
export function helperLoop(memory: WebAssembly.Memory, exports: KernelExports, thread: number): void {
  const words = new Int32Array(memory.buffer, 0, 256)
  const at = (o: number) => o >> 2
  let seen = 0
  while (true) {
    // A short spin first: jobs of one substep follow each other within microseconds.
    for (let k = 0; k < 2000 && Atomics.load(words, at(CONTROL.generation)) === seen; k++);
    Atomics.wait(words, at(CONTROL.generation), seen)
    const word = Atomics.load(words, at(CONTROL.generation))
    if (word === seen) continue
    seen = word
    if (Atomics.load(words, at(CONTROL.quit))) return
    // One who takes no part may come late; the leader waits for all the others before the next job.
    if (thread >= (word & MEMBERS)) continue
    exports.work(Atomics.load(words, at(CONTROL.job)), thread)
    Atomics.sub(words, at(CONTROL.busy), 1)
    Atomics.notify(words, at(CONTROL.busy))
  }
}
/** Asks a running step to stop; may be called from any thread that has the memory. */
export function requestStop(memory: WebAssembly.Memory, stop: boolean): void {
  Atomics.store(new Int32Array(memory.buffer, 0, 256), CONTROL.stop >> 2, stop ? 1 : 0)
}

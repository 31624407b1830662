import { type Mesh, type Motion, motionAt } from '../engine'
import type { MeshShape } from '../shot'

function placesAsTaken(v: Float32Array, { unit: k, up }: { unit: number; up: 'y' | 'z' }): Float32Array {
  if (k === 1 && up === 'y') return v
  const out = new Float32Array(v.length)
  for (let i = 0; i < v.length; i += 3) {
    out[i] = v[i] * k
    out[i + 1] = (up === 'z' ? v[i + 2] : v[i + 1]) * k
    out[i + 2] = (up === 'z' ? -v[i + 1] : v[i + 2]) * k
  }
  return out
}
const taken = new WeakMap<Mesh, Map<string, Mesh>>()
/** A file's mesh in metres and Y up, as its shape says how to take it; one for the same choice. */
export function meshAsTaken(mesh: Mesh, shape: { unit: number; up: 'y' | 'z' }): Mesh {
  if (shape.unit === 1 && shape.up === 'y') return mesh
  const key = `${shape.unit} ${shape.up}`
  let known = taken.get(mesh)
  if (!known) taken.set(mesh, (known = new Map()))
  const done = known.get(key)
  if (done) return done
  const made: Mesh = {
    ...mesh,
    positions: placesAsTaken(mesh.positions, shape),
    normals: mesh.normals && placesAsTaken(mesh.normals, { ...shape, unit: 1 }),
  }
  known.set(key, made)
  return made
}

/** A mesh and, when it moves by itself, its places at a time: `key` is the same for the same places. */
export interface Base {
  mesh: Mesh
  at: ((t: number) => { key: string; places(): Float32Array }) | null
}
const sequences = new WeakMap<Mesh, Map<string, Motion>>()
/** What a file's mesh does by itself: its own motion, or the poses of the files that follow it. `poses` have as many vertices each. */
export function baseOf(mesh: Mesh, shape: MeshShape, poses: readonly Mesh[]): Base {
  const taken = meshAsTaken(mesh, shape)
  let motion: Motion | undefined = mesh.motion
  if (poses.length) {
    let known = sequences.get(mesh)
    if (!known) sequences.set(mesh, (known = new Map()))
    const key = `${shape.rate} ${shape.poses.join()}`
    motion = known.get(key) ?? {
      kind: 'poses',
      lengthS: poses.length / shape.rate,
      rate: shape.rate,
      poses: [mesh.positions, ...poses.map((p) => p.positions)],
    }
    known.set(key, motion)
  }
  if (!motion) return { mesh: taken, at: null }
  const moves = motion
  return {
    mesh: taken,
    at(t) {
      let x = Math.max(0, (t - shape.start) * shape.speed)
      if (shape.after === 'repeat' && moves.lengthS > 0) x -= Math.floor(x / moves.lengthS) * moves.lengthS
      else x = Math.min(x, moves.lengthS)
      return { key: `at ${x}`, places: () => (x === 0 ? taken.positions : placesAsTaken(motionAt(mesh.positions, moves, x), shape)) }
    },
  }
}

// Whether a point lies inside a mesh.
import { castMesh } from './cast'

// @ts-ignore: decorator
@inline function behind(nodes: usize, leaves: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, stack: usize, hit: usize): i32 {
  store<f32>(hit, <f32>2)
  castMesh(nodes, leaves, true, x, y, z, dx, dy, dz, stack, hit)
  const any = load<f32>(hit)
  if (any > 1) return 0
  store<f32>(hit, <f32>2)
  castMesh(nodes, leaves, false, x, y, z, dx, dy, dz, stack, hit)
  return any < load<f32>(hit) ? 1 : 0
}
/**
 * Whether a point lies inside: along each of three directions the nearest face is seen from behind, by majority. For a closed mesh that is
 * exact; an open one has the inside that most directions see, and where a mesh crosses itself, inside of any of its bodies is inside.
 * `reach`: longer than the mesh is wide.
 */
export function insideMesh(nodes: usize, leaves: usize, x: f32, y: f32, z: f32, reach: f32, stack: usize, hit: usize): bool {
  const a = behind(nodes, leaves, x, y, z, reach * 0.8017, reach * 0.5345, reach * 0.2673, stack, hit)
  const b = behind(nodes, leaves, x, y, z, reach * -0.3812, reach * 0.8743, reach * -0.3005, stack, hit)
  if (a == b) return a == 1
  return behind(nodes, leaves, x, y, z, reach * 0.1217, reach * -0.4869, reach * 0.8649, stack, hit) == 1
}

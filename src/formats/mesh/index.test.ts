import { expect, it } from 'vitest'
import { readMesh } from '.'

const PLY = 'ply\nformat ascii 1.0\nelement vertex 3\nproperty double x\nproperty double y\nproperty double z\nelement face 1\n'
const FILES = {
  obj: (far: string) => `v 1 0 0\nv ${far} 0 0\nv 0 1 0\nf 1 2 3\n`,
  stl: (far: string) =>
    `solid a\nfacet normal 0 0 1\nouter loop\nvertex 1 0 0\nvertex ${far} 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid a\n`,
  ply: (far: string) => `${PLY}property list uchar int vertex_indices\nend_header\n1 0 0\n${far} 0 0\n0 1 0\n3 0 1 2\n`,
}
it.each(Object.entries(FILES))(
  '%s: a place that single precision does not hold is said, and the farthest that it does is read',
  async (_, file) => {
    const read = (far: string) => readMesh(new TextEncoder().encode(file(far)))
    expect((await read('3.4e38')).ok).toBe(true)
    const r = await read('1e39')
    expect(r.ok ? '' : r.problem.message).toBe('vertex 1 lies beyond 3.4e38 m, farther than a place can be')
  },
)

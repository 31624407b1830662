import type { Mesh, MeshPart } from './mesh'

/** Gathers triangles with normals, and names runs of them. Lengths in metres; everything stands around the origin, Y up. */
export class Builder {
  private p: number[] = []
  private n: number[] = []
  private i: number[] = []
  private parts: MeshPart[] = []
  private begun: { name: string; at: number } | null = null

  vertex(p: readonly number[], n: readonly number[]): number {
    this.p.push(p[0], p[1], p[2])
    this.n.push(n[0], n[1], n[2])
    return this.p.length / 3 - 1
  }
  /** Leaves out what has no area. */
  triangle(a: number, b: number, c: number): void {
    const at = (v: number, k: number) => this.p[v * 3 + k]
    const same = (v: number, w: number) => at(v, 0) === at(w, 0) && at(v, 1) === at(w, 1) && at(v, 2) === at(w, 2)
    if (!same(a, b) && !same(b, c) && !same(c, a)) this.i.push(a, b, c)
  }
  /** A grid of (nu + 1) × (nv + 1) vertices, two triangles a cell; u to v is counter-clockwise from outside. */
  grid(nu: number, nv: number, f: (u: number, v: number) => { p: readonly number[]; n: readonly number[] }): void {
    const first = this.p.length / 3
    for (let j = 0; j <= nv; j++)
      for (let k = 0; k <= nu; k++) {
        const { p, n } = f(k / nu, j / nv)
        this.vertex(p, n)
      }
    for (let j = 0; j < nv; j++)
      for (let k = 0; k < nu; k++) {
        const a = first + j * (nu + 1) + k
        this.triangle(a, a + 1, a + nu + 2)
        this.triangle(a, a + nu + 2, a + nu + 1)
      }
  }
  part(name: string): void {
    this.close()
    this.begun = { name, at: this.i.length / 3 }
  }
  private close(): void {
    if (this.begun && this.i.length / 3 > this.begun.at)
      this.parts.push({ name: this.begun.name, firstTriangle: this.begun.at, triangleCount: this.i.length / 3 - this.begun.at })
    this.begun = null
  }
  done(): Mesh {
    this.close()
    return { positions: new Float32Array(this.p), normals: new Float32Array(this.n), indices: new Uint32Array(this.i), parts: this.parts }
  }
}

/** Cells of space that hold points of lines: who comes near one has met a line. Points of a cell are a chain. */
export class Trodden {
  private heads = new Int32Array(1 << 16).fill(-1)
  private next: number[] = []
  constructor(
    private size: number,
    private places: number[],
    private lines: number[],
  ) {}
  private cell(x: number, y: number, z: number): number {
    return (Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)) & (this.heads.length - 1)
  }
  private cellOf(point: number): number {
    const o = point * 3
    const { places, size } = this
    return this.cell(Math.floor(places[o] / size), Math.floor(places[o + 1] / size), Math.floor(places[o + 2] / size))
  }
  /** Adds the last point. */
  add(): void {
    const point = this.lines.length - 1
    if (point > this.heads.length) this.grow()
    const cell = this.cellOf(point)
    this.next[point] = this.heads[cell]
    this.heads[cell] = point
  }
  private grow(): void {
    this.heads = new Int32Array(this.heads.length * 4).fill(-1)
    for (let p = 0; p < this.next.length; p++) {
      const cell = this.cellOf(p)
      this.next[p] = this.heads[cell]
      this.heads[cell] = p
    }
  }
  /** Whether a point of another line is nearer than the size of a cell. */
  near(x: number, y: number, z: number, own: number, parent: number): boolean {
    const { size, lines, places } = this
    const [cx, cy, cz] = [Math.floor(x / size), Math.floor(y / size), Math.floor(z / size)]
    for (let i = -1; i <= 1; i++)
      for (let j = -1; j <= 1; j++)
        for (let k = -1; k <= 1; k++)
          for (let p = this.heads[this.cell(cx + i, cy + j, cz + k)]; p >= 0; p = this.next[p]) {
            if (lines[p] === own || lines[p] === parent) continue
            const o = p * 3
            const far = (places[o] - x) ** 2 + (places[o + 1] - y) ** 2 + (places[o + 2] - z) ** 2
            if (far < size * size) return true
          }
    return false
  }
}

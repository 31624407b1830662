import * as THREE from 'three'
import { LOOK_SAMPLES, lookTable, type Mapping, MOST_MAPPINGS, nearestSample, perRange, sampleLook } from '../acts'

/** As the shader numbers them. */
const BY = ['share', 'age', 'speed', 'random', 'along', 'distance', 'phase', 'asked'] as const satisfies Mapping['by'][]
const OF = [
  'size',
  'brightness',
  'opacity',
  'softness',
  'turn',
  'stretch',
  'picture',
  'colour',
  'hue',
  'saturation',
] as const satisfies Mapping['of'][]
const JOINS = ['multiply', 'add', 'replace'] as const satisfies Mapping['joins'][]

/** A row of the table: colours along the ramp by the curve, and the curve itself. */
function writeRow(m: Mapping, out: Uint16Array): void {
  const half = THREE.DataUtils.toHalfFloat
  const ramp = m.of === 'colour' && m.ramp ? lookTable(m.ramp) : null
  for (let i = 0; i < LOOK_SAMPLES; i++) {
    const at = m.curve[i]
    const [r, g, b] = ramp ? sampleLook(ramp, m.ramp?.colour.steps ? nearestSample(at) : at) : [1, 1, 1]
    out.set([half(r), half(g), half(b), half(at)], i * 4)
  }
}

/** What the shader of particles knows of mappings. A curve or ramp is written again only when it is another one. */
export class MappingUniforms {
  private readonly rows = new Uint16Array(LOOK_SAMPLES * 4 * MOST_MAPPINGS)
  private readonly texture = new THREE.DataTexture(this.rows, LOOK_SAMPLES, MOST_MAPPINGS, THREE.RGBAFormat, THREE.HalfFloatType)
  private readonly written: { curve: Float32Array; ramp: Mapping['ramp'] }[] = []

  /** What the material begins with. */
  static readonly empty = () => ({
    ...{ maps: 0, mapTable: null, mapSeed: new Uint32Array(MOST_MAPPINGS) },
    mapBy: Array.from({ length: MOST_MAPPINGS }, () => new THREE.Vector4()),
    mapTo: Array.from({ length: MOST_MAPPINGS }, () => new THREE.Vector4()),
    mapPlace: Array.from({ length: MOST_MAPPINGS }, () => new THREE.Vector4()),
  })
  constructor() {
    this.texture.magFilter = THREE.LinearFilter
    this.texture.minFilter = THREE.LinearFilter
  }
  /** `columnOf`: where what is asked lies among the columns; 0: nobody has found it out. */
  into(u: Record<string, THREE.IUniform>, mappings: readonly Mapping[], columnOf: (ask: string) => number): void {
    u.maps.value = mappings.length
    u.mapTable.value = this.texture
    mappings.forEach((m, k) => {
      u.mapBy.value[k].set(BY.indexOf(m.by), m.from, perRange(m), m.amount)
      u.mapTo.value[k].set(OF.indexOf(m.of), JOINS.indexOf(m.joins), m.low, m.high)
      // Of a colour the low value says whether its ramp has steps.
      if (m.of === 'colour') u.mapTo.value[k].z = m.ramp?.colour.steps ? 1 : 0
      const [x, y, z, w] = m.by === 'asked' ? [columnOf(m.ask)] : m.place
      u.mapPlace.value[k].set(x, y ?? 0, z ?? 0, w ?? 0)
      u.mapSeed.value[k] = m.seed
      const old = this.written[k]
      if (old && old.curve === m.curve && old.ramp === m.ramp) return
      this.written[k] = { curve: m.curve, ramp: m.ramp }
      writeRow(m, this.rows.subarray(k * LOOK_SAMPLES * 4, (k + 1) * LOOK_SAMPLES * 4))
      this.texture.needsUpdate = true
    })
  }
  dispose(): void {
    this.texture.dispose()
  }
}

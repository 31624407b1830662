import * as THREE from 'three'
import type { Mesh } from '../engine'
import { BodyDress, type Dress } from './bodyDress'
import type { GasShadow } from './gasShadow'
import type { Making } from './textures'

/** Texels across; those of one vertex or instance never lie in two rows. */
const WIDTH = 4096
/** Place and normal, with its place in pictures in the last of each; and its colour. */
const VERTEX_TEXELS = 3
const INSTANCE_TEXELS = 4
/**
 * A body of fewer vertices is drawn with an index that names each vertex of each instance: on software GL an instance costs as much as
 * a draw call (25 µs, measured), while vertices that are named twice are worked out once.
 */
const FEW_VERTICES = 256

const READ = `
uniform highp sampler2D bodyVertices; uniform highp sampler2D bodyInstances; uniform int bodyCount;
vec4 bodyTexel(sampler2D from, int k) { return texelFetch(from, ivec2(k & ${WIDTH - 1}, k >> 12), 0); }
#ifdef BODY_INSTANCED
int bodyMe() { return gl_InstanceID; }
int bodyVertex() { return gl_VertexID; }
#else
int bodyMe() { return gl_VertexID / bodyCount; }
int bodyVertex() { return gl_VertexID - bodyMe() * bodyCount; }
#endif
vec4 bodyA, bodyB, bodyC;
// Once a vertex: software GL reads a texel again each time it is asked for.
vec4 bodyRead() {
  int me = bodyMe() * ${INSTANCE_TEXELS};
  bodyA = bodyTexel(bodyInstances, me); bodyB = bodyTexel(bodyInstances, me + 1); bodyC = bodyTexel(bodyInstances, me + 2);
  return vec4(bodyTexel(bodyVertices, bodyVertex() * ${VERTEX_TEXELS}).xyz, 1.0);
}
vec2 bodyUv() { int v = bodyVertex() * ${VERTEX_TEXELS}; return vec2(bodyTexel(bodyVertices, v).w, bodyTexel(bodyVertices, v + 1).w); }
vec3 bodyColour() { return bodyTexel(bodyVertices, bodyVertex() * ${VERTEX_TEXELS} + 2).rgb; }
vec3 bodyPlace(vec4 p) { return vec3(dot(bodyA, p), dot(bodyB, p), dot(bodyC, p)); }
// Of a body that is longer one way than another normals go by what their axes are divided by.
vec3 bodyNormal() {
  vec3 n = bodyTexel(bodyVertices, bodyVertex() * ${VERTEX_TEXELS} + 1).xyz;
  mat3 m = transpose(mat3(bodyA.xyz, bodyB.xyz, bodyC.xyz));
  return normalize(m[0] * (n.x / dot(m[0], m[0])) + m[1] * (n.y / dot(m[1], m[1])) + m[2] * (n.z / dot(m[2], m[2])));
}
`
/** Where three.js would take places in pictures from an attribute. */
const UVS = [
  'MAP:vMapUv',
  'NORMALMAP:vNormalMapUv',
  'EMISSIVEMAP:vEmissiveMapUv',
  'METALNESSMAP:vMetalnessMapUv',
  'ROUGHNESSMAP:vRoughnessMapUv',
]
  .map((x) => x.split(':'))
  .map(([name, varying]) => `#ifdef USE_${name}\n\t${varying} = bodyUv();\n#endif`)
  .join('\n')
/** A geometry whose vertices the shader finds by itself. Without an attribute of normals three.js would draw it faceted; nobody reads this one. */
function geometryWith(index: Uint32Array | null): THREE.InstancedBufferGeometry {
  const g = new THREE.InstancedBufferGeometry()
  g.setAttribute('normal', new THREE.InstancedBufferAttribute(new Float32Array(3), 3, false, 1 << 24))
  if (index) g.setIndex(new THREE.BufferAttribute(index, 1))
  return g
}
/** Numbers for a shader, four a texel. */
class Floats {
  texture = new THREE.DataTexture(new Float32Array(4), 1, 1, THREE.RGBAFormat, THREE.FloatType)
  set(data: Float32Array): void {
    const rows = Math.max(1, Math.ceil(data.length / 4 / WIDTH))
    if (this.texture.image.height < rows || this.texture.image.width !== WIDTH) {
      this.texture.dispose()
      this.texture = new THREE.DataTexture(new Float32Array(WIDTH * rows * 4), WIDTH, rows, THREE.RGBAFormat, THREE.FloatType)
    }
    ;(this.texture.image.data as Float32Array).set(data)
    this.texture.needsUpdate = true
  }
}
/** Many copies of one mesh, each where its instance says, with a colour of its own. */
export class BodyMesh {
  readonly mesh: THREE.Mesh<THREE.InstancedBufferGeometry, THREE.MeshStandardMaterial>
  source: Mesh | null = null
  private vertices = new Floats()
  private instances = new Floats()
  /** What is drawn of them where only their depth counts. */
  readonly shadow = new THREE.MeshDepthMaterial({ depthPacking: THREE.RGBADepthPacking, side: THREE.DoubleSide })
  private uniforms = {
    bodyVertices: { value: this.vertices.texture },
    bodyInstances: { value: this.instances.texture },
    bodyCount: { value: 1 },
  }
  private readonly worn: BodyDress
  private room = 0

  constructor(gasShadow: GasShadow, making: Making) {
    this.worn = new BodyDress(gasShadow, making, {
      ...{ key: 'bodies in the shadow of gas', own: 'bodyPoint.xyz', uniforms: this.uniforms },
      vertex: (shader) =>
        shader
          .replace('void main() {', `${READ}\nvoid main() {`)
          .replace('#include <uv_vertex>', UVS)
          .replace(
            '#include <color_vertex>',
            'vec4 bodyPoint = bodyRead(), bodyTint = bodyTexel(bodyInstances, bodyMe() * 4 + 3);\n#ifdef BODY_COLOURS\n\tbodyTint.rgb *= bodyColour();\n#endif\n\tvColor.rgb = bodyTint.rgb;\n\tbodyShine = bodyTint.rgb * bodyTint.a;',
          )
          .replace('#include <beginnormal_vertex>', 'vec3 objectNormal = bodyNormal();')
          .replace('#include <begin_vertex>', 'vec3 transformed = bodyPlace(bodyPoint);'),
    })
    this.shadow.onBeforeCompile = (shader) => {
      Object.assign(shader.uniforms, this.uniforms)
      shader.vertexShader = shader.vertexShader
        .replace('void main() {', `${READ}\nvoid main() {`)
        .replace('#include <begin_vertex>', 'vec3 transformed = bodyPlace(bodyRead());')
    }
    this.shadow.customProgramCacheKey = () => 'shadows of bodies'
    this.mesh = this.worn.meshOf(geometryWith(null), this.shadow)
  }
  /** `instances`: sixteen floats each. */
  set(mesh: Mesh, instances: Float32Array): void {
    const count = instances.length / 16
    const n = mesh.positions.length / 3
    const few = n < FEW_VERTICES
    if (mesh !== this.source) this.take(mesh, few)
    this.instances.set(instances)
    this.uniforms.bodyInstances.value = this.instances.texture
    this.mesh.visible = count > 0
    if (!few) {
      this.mesh.geometry.instanceCount = count
      return
    }
    if (count > this.room) this.index(mesh, n, Math.ceil(count * 1.25))
    this.mesh.geometry.setDrawRange(0, count * mesh.indices.length)
  }
  private take(mesh: Mesh, few: boolean): void {
    this.source = mesh
    const n = mesh.positions.length / 3
    const data = new Float32Array(n * VERTEX_TEXELS * 4)
    for (let v = 0, o = 0; v < n; v++, o += VERTEX_TEXELS * 4) {
      for (let a = 0; a < 3; a++) {
        data[o + a] = mesh.positions[v * 3 + a]
        data[o + 4 + a] = mesh.normals ? mesh.normals[v * 3 + a] : a === 1 ? 1 : 0
        data[o + 8 + a] = mesh.colours ? mesh.colours[v * 3 + a] : 1
      }
      if (mesh.uv) {
        data[o + 3] = mesh.uv[v * 2]
        data[o + 7] = mesh.uv[v * 2 + 1]
      }
    }
    this.vertices.set(data)
    this.uniforms.bodyVertices.value = this.vertices.texture
    this.uniforms.bodyCount.value = n
    const flat = !mesh.normals
    const { material } = this.mesh
    for (const m of [material, this.shadow]) {
      if (!!m.defines?.BODY_INSTANCED === !few && !!m.defines?.BODY_COLOURS === !!mesh.colours) continue
      m.defines = { ...(few ? {} : { BODY_INSTANCED: 1 }), ...(mesh.colours ? { BODY_COLOURS: 1 } : {}) }
      if (m === material) (m.defines as Record<string, string>).STANDARD = ''
      m.needsUpdate = true
    }
    if (material.flatShading !== flat) {
      material.flatShading = flat
      material.needsUpdate = true
    }
    this.room = 0
    this.mesh.geometry.dispose()
    this.mesh.geometry = geometryWith(few ? null : mesh.indices)
  }
  /** Names each vertex of each of so many instances. */
  private index(mesh: Mesh, n: number, count: number): void {
    const per = mesh.indices.length
    const all = new Uint32Array(per * count)
    for (let i = 0, o = 0; i < count; i++) for (let k = 0; k < per; k++) all[o++] = i * n + mesh.indices[k]
    this.mesh.geometry.dispose()
    this.mesh.geometry = geometryWith(all)
    this.mesh.geometry.instanceCount = 1
    this.room = count
  }
  /** True when anything is another than before. */
  dress(d: Dress): boolean {
    return this.worn.dress(d)
  }
  dispose(): void {
    this.mesh.geometry.dispose()
    this.worn.dispose()
    this.shadow.dispose()
    this.vertices.texture.dispose()
    this.instances.texture.dispose()
  }
}

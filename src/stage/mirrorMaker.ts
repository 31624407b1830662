import * as THREE from 'three'

/** Texels across of each face of the cube that is mirrored smoothly, and of the one that is mirrored most roughly. */
const SIZE = 256
const ROUGHEST = 8
const LEVELS = Math.log2(SIZE / ROUGHEST)
/** Levels whose lobe is so wide that each texel of a small cube is weighed with it; for those before them places of the lobe are looked at. */
const WIDE = 3
const SMALL = 16
const MOST_LOOKS = 64

/** The roughness that a level holds; materials of three.js go the other way, from theirs to a level. */
export const roughnessOf = (level: number): number => 1 - Math.sqrt(1 - level / LEVELS)

export interface Look {
  /** Where it is about the direction that is mirrored, which is z. */
  x: number
  y: number
  z: number
  /** The level of the cube whose texels are as large as its share of the lobe. */
  level: number
}
/**
 * Places of the lobe of a roughness (GGX, seen along its normal), for texels of a cube of so many: distributed by its own density, each with as much
 * of it (visible normals: Heitz 2018), in the level of the cube that is as coarse as that (filtered importance sampling: Křivánek and Colbert 2008).
 */
export function looksInto(roughness: number, looks: number, size: number): Look[] {
  const alpha = roughness * roughness
  // A texel of level n covers 4ⁿ · 4π / 6 size², a place 4 / (looks · D). Plus half a level, since noise shows sooner than blur.
  const bias = Math.log2(size) + 0.5 * Math.log2(6 / (looks * alpha * alpha)) + 0.5
  const out: Look[] = []
  for (let i = 0; i < looks; i++) {
    const u = i / looks
    const q = 1 / (1 - u + alpha * alpha * u)
    const z = (1 - u - alpha * alpha * u) * q
    if (z <= 0) continue
    const across = 2 * alpha * Math.sqrt(u * (1 - u)) * q
    const turn = 2 * Math.PI * inverted(i)
    out.push({ x: Math.cos(turn) * across, y: Math.sin(turn) * across, z, level: Math.max(0, Math.log2(alpha * alpha * q) + bias) })
  }
  return out
}
/** The bits of a number backwards behind the point: evenly spread, however many there are (van der Corput). */
function inverted(i: number): number {
  let [sum, part] = [0, 0.5]
  for (let n = i; n > 0; n >>= 1, part /= 2) if (n & 1) sum += part
  return sum
}
/** A narrow lobe covers few texels: more looks would find nothing new. */
const looksOf = (level: number): number => (level === 1 ? MOST_LOOKS / 2 : MOST_LOOKS)

const VERTEX = `
varying vec3 way;
void main() {
  way = (modelMatrix * vec4(position, 0.0)).xyz;
  gl_Position = (projectionMatrix * modelViewMatrix * vec4(position, 1.0)).xyww;
}`
/** Four places of a texel, so that what is small and bright stays as bright. */
const FROM_PICTURE = `
#include <common>
varying vec3 way;
uniform sampler2D picture;
vec3 at(vec3 d) { return textureLod(picture, equirectUv(normalize(d)), 0.0).rgb; }
void main() {
  vec3 d = normalize(way), dx = dFdx(d) * 0.25, dy = dFdy(d) * 0.25;
  gl_FragColor = vec4((at(d - dx - dy) + at(d + dx - dy) + at(d - dx + dy) + at(d + dx + dy)) * 0.25, 1.0);
}`
const SMOOTH = `
varying vec3 way;
uniform samplerCube cube;
void main() { gl_FragColor = vec4(textureLod(cube, way, 0.0).rgb, 1.0); }`
const NARROW_LOBE = `
varying vec3 way;
uniform samplerCube cube;
uniform vec4 looks[${MOST_LOOKS}];
uniform int count;
void main() {
  vec3 n = normalize(way), up = abs(n.z) < 0.999 ? vec3(0.0, 0.0, 1.0) : vec3(1.0, 0.0, 0.0);
  vec3 t = normalize(cross(up, n)), b = cross(n, t);
  vec4 sum = vec4(0.0);
  for (int i = 0; i < count; i++) {
    vec4 l = looks[i];
    sum += vec4(textureLod(cube, n * l.z + t * l.x + b * l.y, l.w).rgb, 1.0) * l.z;
  }
  gl_FragColor = vec4(sum.rgb / sum.w, 1.0);
}`
/** The small cube as a picture: three faces from above down, then what lies opposite to each of their texels. */
const FLAT = `
uniform samplerCube cube;
uniform float level;
void main() {
  int row = int(gl_FragCoord.y), face = (row / ${SMALL}) % 3;
  vec2 uv = (vec2(gl_FragCoord.x, mod(gl_FragCoord.y, ${SMALL}.0)) / ${SMALL / 2}.0) - 1.0;
  vec3 d = face == 0 ? vec3(1.0, uv) : face == 1 ? vec3(uv.x, 1.0, uv.y) : vec3(uv, 1.0);
  gl_FragColor = vec4(textureLod(cube, row < ${3 * SMALL} ? d : -d, level).rgb, 1.0);
}`
/** Of opposite texels one is before the direction. What is the same for all of a lobe, and what a texel covers, is left out where it cancels. */
const WIDE_LOBE = `
varying vec3 way;
uniform sampler2D small;
uniform float alpha2;
void main() {
  vec3 n = normalize(way);
  vec4 sum = vec4(0.0);
  for (int face = 0; face < 3; face++)
    for (int y = 0; y < ${SMALL}; y++)
      for (int x = 0; x < ${SMALL}; x++) {
        vec2 uv = (vec2(x, y) + 0.5) / ${SMALL / 2}.0 - 1.0;
        vec3 d = face == 0 ? vec3(1.0, uv) : face == 1 ? vec3(uv.x, 1.0, uv.y) : vec3(uv, 1.0);
        float along = dot(n, d), near = inversesqrt(1.0 + dot(uv, uv)), cosine = abs(along) * near;
        float lobe = 1.0 + alpha2 + (alpha2 - 1.0) * cosine;
        float weight = cosine * near * near * near / (lobe * lobe);
        sum += vec4(texelFetch(small, ivec2(x, y + ${SMALL} * (along < 0.0 ? face + 3 : face)), 0).rgb, 1.0) * weight;
      }
  gl_FragColor = vec4(sum.rgb / sum.w, 1.0);
}`
const material = (fragmentShader: string, uniforms: Record<string, { value: unknown }>, vertexShader = VERTEX) =>
  new THREE.ShaderMaterial({
    ...{ vertexShader, fragmentShader, uniforms, side: THREE.DoubleSide, blending: THREE.NoBlending },
    ...{ depthTest: false, depthWrite: false, toneMapped: false },
  })
const cubeOf = (generateMipmaps: boolean) =>
  new THREE.WebGLCubeRenderTarget(SIZE, {
    ...{ minFilter: THREE.LinearMipmapLinearFilter, generateMipmaps, type: THREE.HalfFloatType },
    ...{ colorSpace: THREE.LinearSRGBColorSpace, depthBuffer: false },
  })

/**
 * Prefilters what lies all around for every roughness (split sums: Karis 2013), laid out as materials of three.js look it up. Narrow lobes are sampled
 * at places that are the same for all texels of a level; wide ones weigh every texel of a small cube. Without a GPU a look into a cube takes two cores
 * 0.1 µs: three.js, which makes the same, takes 38 million of them, this 5 (measured.md).
 */
export class MirrorMaker {
  private readonly box: THREE.Mesh<THREE.BoxGeometry, THREE.ShaderMaterial>
  /** What is all around, as it is. */
  private readonly source = cubeOf(true)
  private readonly camera = new THREE.CubeCamera(0.1, 10, this.source)
  private readonly flat = new THREE.WebGLRenderTarget(SMALL, 6 * SMALL, {
    ...{ type: THREE.HalfFloatType, minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter, depthBuffer: false },
  })
  private readonly quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2))
  private readonly flatCamera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1)
  private readonly picture = material(FROM_PICTURE, { picture: { value: null } })
  private readonly smooth = material(SMOOTH, { cube: { value: this.source.texture } })
  private readonly narrow = material(NARROW_LOBE, {
    cube: { value: this.source.texture },
    looks: { value: Array.from({ length: MOST_LOOKS }, () => new THREE.Vector4()) },
    count: { value: 0 },
  })
  private readonly small = material(
    FLAT,
    { cube: { value: this.source.texture }, level: { value: Math.log2(SIZE / SMALL) } },
    'void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }',
  )
  private readonly wide = material(WIDE_LOBE, { small: { value: this.flat.texture }, alpha2: { value: 1 } })

  constructor(private readonly r: THREE.WebGLRenderer) {
    this.box = new THREE.Mesh(new THREE.BoxGeometry(5, 5, 5), this.smooth)
    this.quad.material = this.small
    this.quad.frustumCulled = false
  }
  /** Of what a scene has all around its origin, which covers every direction. The caller disposes of it. */
  fromScene(scene: THREE.Scene): THREE.WebGLCubeRenderTarget {
    this.draw(this.source, 0, scene)
    return this.make()
  }
  /** Of a picture that is equirectangular. The caller disposes of it. */
  fromPicture(texture: THREE.Texture): THREE.WebGLCubeRenderTarget {
    this.picture.uniforms.picture.value = texture
    this.draw(this.source, 0, this.around(this.picture))
    return this.make()
  }
  private make(): THREE.WebGLCubeRenderTarget {
    const { r } = this
    const target = cubeOf(false)
    for (let level = 0; level <= LEVELS; level++) target.texture.mipmaps.push({ width: SIZE >> level, height: SIZE >> level } as never)
    Object.assign(target.texture, { name: 'mirrored', isPMREMTexture: true })
    const before = r.getRenderTarget()
    r.setRenderTarget(this.flat)
    r.render(this.quad, this.flatCamera)
    r.setRenderTarget(before)
    this.draw(target, 0, this.around(this.smooth))
    for (let level = 1; level <= LEVELS; level++) {
      const roughness = roughnessOf(level)
      if (level > LEVELS - WIDE) {
        this.wide.uniforms.alpha2.value = roughness ** 4
        this.draw(target, level, this.around(this.wide))
        continue
      }
      const looks = looksInto(roughness, looksOf(level), SIZE)
      const { looks: places, count } = this.narrow.uniforms
      count.value = looks.length
      looks.forEach((l, i) => {
        ;(places.value as THREE.Vector4[])[i].set(l.x, l.y, l.z, l.level)
      })
      this.draw(target, level, this.around(this.narrow))
    }
    return target
  }
  private around(by: THREE.ShaderMaterial): THREE.Object3D {
    this.box.material = by
    return this.box
  }
  /** Draws all faces of a level. */
  private draw(target: THREE.WebGLCubeRenderTarget, level: number, all: THREE.Object3D): void {
    const { camera, r } = this
    Object.assign(camera, { renderTarget: target, activeMipmapLevel: level })
    const size = SIZE >> level
    target.viewport.set(0, 0, size, size)
    camera.update(r, all as THREE.Scene)
    target.viewport.set(0, 0, SIZE, SIZE)
  }
  dispose(): void {
    for (const x of [this.source, this.flat, this.box.geometry, this.quad.geometry]) x.dispose()
    for (const x of [this.picture, this.smooth, this.narrow, this.small, this.wide]) x.dispose()
  }
}

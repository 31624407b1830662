import * as THREE from 'three'
import { lightShare } from '../acts'
import type { LightDoc } from '../shot'

/** Lights of each kind that shares are known of; of more the last ones share one. */
const MOST = { point: 64, spot: 16, sun: 16, area: 16 }
type Kind = keyof typeof MOST
const KINDS = Object.keys(MOST) as Kind[]
const NAMES: Record<Kind, string> = { point: 'pointShares', spot: 'spotShares', sun: 'sunShares', area: 'areaShares' }
export const SHARE_UNIFORMS = `uniform vec4 ${KINDS.map((k) => `${NAMES[k]}[${MOST[k] / 4}]`).join(', ')};\n`
/** In the loops of three.js the number of a light is known when the shader is made. */
const shareOf = (kind: Kind) => `${NAMES[kind]}[ min( UNROLLED_LOOP_INDEX / 4, ${MOST[kind] / 4 - 1} ) ][ UNROLLED_LOOP_INDEX % 4 ]`
const PLACES: [Kind, string, string][] = [
  ['point', 'getPointLightInfo( pointLight, geometryPosition, directLight );', 'directLight.color'],
  ['spot', 'getSpotLightInfo( spotLight, geometryPosition, directLight );', 'directLight.color'],
  ['sun', 'getDirectionalLightInfo( directionalLight, directLight );', 'directLight.color'],
  ['area', 'rectAreaLight = rectAreaLights[ i ];', 'rectAreaLight.color'],
]
/** Lets each light give an element its share. Throws where three.js has changed its loops. */
export function withShares(fragment: string): string {
  return PLACES.reduce((f, [kind, place, colour]) => {
    if (!f.includes(place)) throw new Error('three.js goes through its lights in another way now: look at stage/lightShares.ts')
    return f.replace(place, `${place}\n\t\t${colour} *= ${shareOf(kind)};`)
  }, fragment)
}
/** What each material holds of them: all of every light, until it is told otherwise. */
export const shareUniforms = (): Record<string, { value: Float32Array }> =>
  Object.fromEntries(KINDS.map((k) => [NAMES[k], { value: new Float32Array(MOST[k]).fill(1) }]))

const kindOf = (l: THREE.Light): Kind | null =>
  l instanceof THREE.PointLight
    ? 'point'
    : l instanceof THREE.SpotLight
      ? 'spot'
      : l instanceof THREE.DirectionalLight
        ? 'sun'
        : l instanceof THREE.RectAreaLight
          ? 'area'
          : null
/** The lights of a scene in the order in which shaders know them: those with shadows first, else as they stand in it. */
function inOrder(scene: THREE.Scene): THREE.Light[] {
  const all: THREE.Light[] = []
  scene.traverseVisible((o) => {
    if ((o as THREE.Light).isLight) all.push(o as THREE.Light)
  })
  return all.sort((a, b) => Number(b.castShadow) - Number(a.castShadow))
}
/** Puts into what is drawn how much of each light it gets, and which lights it shades. */
export class LightShares {
  private told = false

  /** `of`: the light of the shot that a light stands for. Elements are known by the name of their meshes. */
  set(scene: THREE.Scene, lights: readonly LightDoc[], of: (l: THREE.Light) => string | undefined): void {
    const some = lights.some((l) => l.shares?.length && !l.muted)
    if (!some && !this.told) return
    this.told = some
    const order = inOrder(scene)
    const docs = new Map(lights.map((l) => [l.id, l]))
    const doc = (l: THREE.Light) => docs.get(of(l) ?? '')
    const unshaded = order.flatMap((l) =>
      'shadow' in l && l.castShadow ? [{ doc: doc(l), camera: (l as THREE.SpotLight).shadow.camera }] : [],
    )
    scene.traverse((m) => {
      if (!(m instanceof THREE.Mesh)) return
      const element = m.name
      for (const material of [m.material].flat() as THREE.Material[]) {
        const uniforms = material.userData.shares as ReturnType<typeof shareUniforms> | undefined
        if (!uniforms) continue
        const at = { point: 0, spot: 0, sun: 0, area: 0 }
        for (const l of order) {
          const kind = kindOf(l)
          const d = doc(l)
          if (kind) uniforms[NAMES[kind]].value[Math.min(at[kind]++, MOST[kind] - 1)] = d ? lightShare(d, element) : 1
        }
      }
      const not = unshaded.filter((x) => x.doc?.shares?.some((s) => s.of === element && !s.shadow)).map((x) => x.camera)
      if (!not.length && !m.userData.unshaded) return
      m.userData.unshaded = not
      // Nothing of it is drawn into the map of a light that it does not shade.
      const range = { start: 0, count: Number.POSITIVE_INFINITY }
      m.onBeforeShadow = (_r, _o, _c, camera, geometry) => {
        Object.assign(range, geometry.drawRange)
        if ((m.userData.unshaded as THREE.Camera[]).includes(camera)) geometry.setDrawRange(0, 0)
      }
      m.onAfterShadow = (_r, _o, _c, _s, geometry) => geometry.setDrawRange(range.start, range.count)
    })
  }
}

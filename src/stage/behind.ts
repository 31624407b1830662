import * as THREE from 'three'

/** What fills the picture behind everything, whatever is drawn before it. */
export function behindAll<M extends THREE.Material>(material: M): THREE.Mesh<THREE.BufferGeometry, M> {
  material.depthTest = material.depthWrite = false
  material.userData.keysApart = true
  const g = new THREE.BufferGeometry()
  g.setAttribute('position', new THREE.BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3))
  const mesh = new THREE.Mesh(g, material)
  mesh.frustumCulled = false
  mesh.renderOrder = -1e6
  mesh.visible = false
  return mesh
}
/** Uniforms by which a shader finds the direction that a pixel looks, and how wide it is. */
export const wayUniforms = () => ({
  ...{
    wide: { value: new THREE.Vector2() },
    shift: { value: new THREE.Vector2() },
    toShot: { value: new THREE.Matrix3() },
    perPixel: { value: 1 },
  },
})
/** Sets them for whatever camera sees the mesh: that of the picture, or the six of what is mirrored. `rows`: of the picture. */
export function looksAlong(mesh: THREE.Mesh<THREE.BufferGeometry, THREE.ShaderMaterial>, rows: () => number): void {
  mesh.onBeforeRender = (_r, _s, camera) => {
    const u = mesh.material.uniforms
    const p = camera.projectionMatrix.elements
    u.wide.value.set(1 / p[0], 1 / p[5])
    u.shift.value.set(p[8], p[9])
    u.toShot.value.setFromMatrix4(camera.matrixWorld)
    u.perPixel.value = 2 / (Math.abs(p[5]) * rows())
    mesh.material.uniformsNeedUpdate = true
  }
}
/** What hides others is drawn before everything but what lies behind all. */
export const HIDERS = -1000
/** What is not seen and hides. */
export const hider = () => new THREE.MeshBasicMaterial({ colorWrite: false, side: THREE.DoubleSide })

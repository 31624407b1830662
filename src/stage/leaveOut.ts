import type * as THREE from 'three'

/**
 * Makes shaders without what nothing uses, by name: without a GPU a branch that is not taken costs as much as one that is. Programs of
 * a material are kept, so that it costs nothing to change back.
 */
export function leaveOut(material: THREE.ShaderMaterial, names: Readonly<Record<string, boolean>>): void {
  for (const [name, out] of Object.entries(names)) {
    if (out === name in material.defines) continue
    if (out) material.defines[name] = 1
    else delete material.defines[name]
    material.needsUpdate = true
  }
}

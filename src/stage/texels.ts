import type * as THREE from 'three'

/** The numbers that a texture was made of, in the kind that they were made in: three.js does not say. Throws where they are of another. */
export function texels<A>(texture: THREE.DataTexture | THREE.Data3DTexture, kind: abstract new (...args: never[]) => A): A {
  const data: unknown = texture.image.data
  if (data instanceof kind) return data
  throw new Error(`a texture does not hold ${kind.name}`)
}

import * as THREE from 'three'

/** Places of the lobe that are looked at for each texel of what is mirrored roughly. */
const LOOKS = 64
const OF_THREE = /#define GGX_SAMPLES (\d+)u/
const LOD = 'float lod = max( log2( d ) + lodBias, 0.0 );'

/**
 * What makes of a picture all around what is mirrored of it at every roughness (filtered importance sampling: Křivánek and Colbert 2008). three.js
 * looks at 256 places, each in a level of the picture as coarse as its part of the lobe is large; a quarter of them, each of four times the part, is a
 * level coarser and shows the same, in a quarter of the time: without a GPU that was most of the wait for a picture of light (measured.md).
 */
export function mirrorMaker(r: THREE.WebGLRenderer): THREE.PMREMGenerator {
  const maker = new THREE.PMREMGenerator(r)
  // The material is made when it is needed first; it is changed as it comes.
  let material: THREE.ShaderMaterial | null = null
  Object.defineProperty(maker, '_ggxMaterial', {
    get: () => material,
    set: (made: THREE.ShaderMaterial | null) => {
      if (made) made.fragmentShader = withFewerLooks(made.fragmentShader)
      material = made
    },
  })
  return maker
}
/** Throws where three.js has changed it. */
export function withFewerLooks(shader: string): string {
  const looks = Number(OF_THREE.exec(shader)?.[1])
  if (!looks || !shader.includes(LOD)) throw new Error('three.js makes what is mirrored in another way now: look at stage/mirrorMaker.ts')
  const coarser = 0.5 * Math.log2(looks / LOOKS)
  return shader.replace(OF_THREE, `#define GGX_SAMPLES ${LOOKS}u`).replace(LOD, LOD.replace('lodBias', `lodBias + ${coarser.toFixed(4)}`))
}

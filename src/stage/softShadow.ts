import * as THREE from 'three'

/** Taps to each side, and how far the outermost lie, of the radius. */
const SIDE = 2
/**
 * What three.js makes of the edge of a shadow: five places of a disc that is turned at random for each pixel, which shows as grain in a still
 * picture. Here a tent of five by five, each filtered by the hardware: as soft, without grain, and the same for every pixel. It makes a picture
 * a fifth to a third dearer without a GPU (measured.md), so pictures in motion keep the five.
 */
const GRAINY = /(float phi = interleavedGradientNoise[^;]*;\s*shadow = \([\s\S]*?\) \* 0\.2;)/
const TENT = `
				shadow = 0.0;
				for (int i = -${SIDE}; i <= ${SIDE}; i++)
					for (int j = -${SIDE}; j <= ${SIDE}; j++)
						shadow += float((${SIDE + 1} - abs(i)) * (${SIDE + 1} - abs(j))) * texture(shadowMap, vec3(shadowCoord.xy + vec2(i, j) * radius / ${SIDE}.0, shadowCoord.z));
				shadow /= ${(SIDE + 1) ** 4}.0;`
/** A uniform of the materials: whether edges are smooth. */
const SMOOTH = 'uniform bool smoothShadows;\n'

/** The part of the materials' shaders that reads shadow maps. Throws where three.js has changed it. */
export function softShadows(chunk: string = THREE.ShaderChunk.shadowmap_pars_fragment): string {
  if (!GRAINY.test(chunk)) throw new Error('three.js filters its shadows in another way now: look at stage/softShadow.ts')
  return SMOOTH + chunk.replace(GRAINY, (cheap) => `if (smoothShadows) {${TENT} } else { ${cheap} }`)
}

/** Of which kind the key light is: the first that throws shadows, whose way through gases is known. */
export const KEY_SPOT = 1
export const KEY_SUN = 2
/** Behind the picture of the objects lies one of what the key light adds to it, as if no gas stood in its way. */
const OUT = 'layout(location = 1) out highp vec4 keyLight;\n'
/** For shaders of what is lit: `keysApart` says whether the key light's share goes into that picture. */
export const KEY_LIGHT = `
${OUT}uniform bool keysApart;
vec3 keyLit = vec3(0.0), keyCoat = vec3(0.0), keySheen = vec3(0.0);
`
/** For shaders of what the key light does not reach. */
export const NO_KEY = OUT
export const NO_KEY_MAIN = 'keyLight = vec4(0.0, 0.0, 0.0, 1.0);'

const OF_KEY = /(\b(spot|directional)LightShadow = \w+\[ i \];[\s\S]*?)(RE_Direct\([^;]*;)/g
/** What the key light adds to each sum of light is the difference of before and after it: all sums are linear in its colour. */
const note = (write: (into: string, sum: string) => string): string => `
			${write('keyLit', '(reflectedLight.directDiffuse + reflectedLight.directSpecular)')}
			#ifdef USE_CLEARCOAT
			${write('keyCoat', 'clearcoatSpecularDirect')}
			#endif
			#ifdef USE_SHEEN
			${write('keySheen', 'sheenSpecularDirect')}
			#endif
`
const BEFORE = note((into, sum) => `${into} = ${sum};`)
const AFTER = note((into, sum) => `${into} = ${sum} - ${into};`)
/** Has the loops over lights note what the key light adds. Throws where three.js has changed them. */
export function keyApart(fragment: string): string {
  const noted = fragment.replace(OF_KEY, (_, before: string, kind: string, call: string) => {
    const isKey = `UNROLLED_LOOP_INDEX == 0 && gasKind == ${kind === 'spot' ? KEY_SPOT : KEY_SUN} && keysApart`
    return `${before}if (${isKey}) {${BEFORE}\t\t}\n\t\t${call}\n\t\tif (${isKey}) {${AFTER}\t\t}`
  })
  if (noted.split('- keyLit').length !== 3) throw new Error('three.js adds up its lights in another way now: look at stage/keyLight.ts')
  return noted
}
/** Before the light of a surface is written, where three.js has put a coat over it. */
export const KEY_OUT = `
	keyLight = vec4(0.0, 0.0, 0.0, 1.0);
	if (keysApart) {
		vec3 key = keyLit;
		#ifdef USE_SHEEN
		key += keySheen;
		#endif
		#ifdef USE_CLEARCOAT
		key = key * (1.0 - material.clearcoat * Fcc) + keyCoat * material.clearcoat;
		#endif
		outgoingLight = max(outgoingLight - key, 0.0);
		keyLight.rgb = key;
	}
	`

import type { FinishPass, FinishValue } from '../../acts'

/** Names of the uniforms that every finish may read. */
const COMMON = `
precision highp float; precision highp int;
in vec2 uv; out vec4 colour;
uniform sampler2D picture; uniform float aspect; uniform float transparent;`

const typeOf = (v: FinishValue): string =>
  typeof v === 'number' ? 'float' : v.length <= 4 && v.length > 1 ? `vec${v.length}` : `float[${v.length}]`
const declared = (name: string, v: FinishValue): string => {
  const type = typeOf(v)
  const list = /^float\[(\d+)\]$/.exec(type)
  return list ? `uniform float ${name}[${list[1]}];` : `uniform ${type} ${name};`
}
const names = (p: FinishPass): string[] => [...Object.keys(p.values ?? {}), ...Object.keys(p.reads ?? {})]
const once = (parts: readonly string[]): string => [...new Set(parts)].join('\n')
const uniformsOf = (p: FinishPass, as: (name: string) => string): string =>
  [
    ...Object.entries(p.values ?? {}).map(([k, v]) => declared(as(k), v)),
    ...Object.keys(p.reads ?? {}).map((k) => `uniform sampler2D ${as(k)};`),
  ].join('\n')

/** The shader of one step over a whole picture. */
export const areaShader = (p: FinishPass): string => `${COMMON}
${uniformsOf(p, (k) => k)}
${once(p.uses ?? [])}
${p.glsl}
void main() { colour = finish(uv); }`

/** A name of step i of several that share a shader. */
export const nameOf = (i: number, name: string): string => `${name}_${i}`

/**
 * The shader of several steps, each of a pixel by itself, one after the other on the colour of the picture: `last` ends `main` with what becomes of
 * `c`. Names of each step get its number, so that two of a kind do not meet.
 */
export function pointShader(steps: readonly FinishPass[], last: { uniforms: string; uses: readonly string[]; main: string }): string {
  const code = steps.map((p, i) => {
    const own = new Set([...names(p), 'finish'])
    const named = p.glsl.replace(/[A-Za-z_]\w*/g, (word, at: number) => (own.has(word) && p.glsl[at - 1] !== '.' ? nameOf(i, word) : word))
    return `${uniformsOf(p, (k) => nameOf(i, k))}\n${named}`
  })
  return `${COMMON}
${last.uniforms}
${once([...steps.flatMap((p) => p.uses ?? []), ...last.uses])}
${code.join('\n')}
void main() {
  vec4 c = texelFetch(picture, ivec2(gl_FragCoord.xy), 0);
${steps.map((_, i) => `  c = finish_${i}(c, uv);`).join('\n')}
${last.main}
}`
}

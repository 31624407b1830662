import { type ExrChannel, rgbaChannels, writeExr } from '../../formats/image/exrWriter'
import { writePng, writePng16 } from '../../formats/image/png'
import type { PassName, Region, Wanted } from '../../protocol'
import type { Shot } from '../../shot'

/** What files a frame becomes. */
export interface FrameFormats {
  png: boolean
  png16: boolean
  exr: boolean
  /** Numbers of the light in EXR files; depth and motion are always whole floats. */
  exrType: 'half' | 'float'
  passes: readonly PassName[]
}

/** What the page is asked for. */
export const wantedFor = (f: FrameFormats): Wanted => ({ screen: f.png, deep: f.png16, light: f.exr, passes: f.exr ? f.passes : [] })

/** A name that channels can have: those of files are plain letters, and a point parts layer and channel. */
const plain = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/[^\x20-\x7e]/g, '')
    .replace(/[.\s]+/g, ' ')
    .trim() || 'unnamed'
/** Names for elements, each another. */
function namesOf(elements: readonly { id: string; name: string }[]): Map<string, string> {
  const taken = new Set<string>()
  return new Map(
    elements.map((e) => {
      const base = plain(e.name)
      let name = base
      for (let n = 2; taken.has(name); n++) name = `${base} ${n}`
      taken.add(name)
      return [e.id, name]
    }),
  )
}
/** Every nth value. */
const every = (data: Float32Array, of: number, at: number): Float32Array =>
  Float32Array.from({ length: data.length / of }, (_, i) => data[i * of + at])

/** The channels of an EXR file, of what came back. */
export function exrChannels(
  shot: Pick<Shot, 'layers' | 'objects' | 'lights' | 'systems'>,
  got: ReadonlyMap<string, Uint8Array>,
  type: 'half' | 'float',
  alpha: boolean,
): { channels: ExrChannel[]; attributes: Record<string, string> } {
  const floats = (name: string) => {
    const b = got.get(name)
    return b ? new Float32Array(b.buffer, b.byteOffset, b.byteLength / 4) : null
  }
  const channels: ExrChannel[] = []
  const attributes: Record<string, string> = {}
  const light = floats('light')
  if (light) channels.push(...rgbaChannels(light, type, '', alpha))
  const raw = floats('unfinished')
  if (raw) channels.push(...rgbaChannels(raw, type, 'unfinished', alpha))
  // What shines by itself; with what each light adds it is the picture before its finishes.
  for (const name of ['shining', 'emission'])
    if (got.has(name)) channels.push(...rgbaChannels(floats(name) as Float32Array, type, name, alpha && name === 'shining'))
  const layers = namesOf(shot.layers)
  const lights = namesOf(shot.lights)
  const objects = namesOf(shot.objects)
  for (const name of got.keys()) {
    const [what, id] = [name.slice(0, name.indexOf(' ')), name.slice(name.indexOf(' ') + 1)]
    const data = floats(name)
    if (!data) continue
    // The picture itself lies on what is behind everything; the others on nothing.
    if (what === 'layer') channels.push(...rgbaChannels(data, type, `layer ${layers.get(id) ?? id}`, alpha || id !== shot.layers[0].id))
    if (what === 'light' && id) channels.push(...rgbaChannels(data, type, `light ${lights.get(id) ?? id}`, false))
    if (what === 'mask') channels.push({ name: `mask.${objects.get(id) ?? plain(id)}`, type: 'half', data })
  }
  const depth = floats('depth')
  if (depth) channels.push({ name: 'depth.Z', type: 'float', data: depth })
  const normal = floats('normal')
  if (normal)
    for (const [k, c] of ['X', 'Y', 'Z'].entries()) channels.push({ name: `normal.${c}`, type: 'half', data: every(normal, 3, k) })
  const motion = floats('motion')
  if (motion) for (const [k, c] of ['X', 'Y'].entries()) channels.push({ name: `motion.${c}`, type: 'float', data: every(motion, 2, k) })
  const id = got.get('id')
  if (id) {
    channels.push({ name: 'id', type: 'uint', data: new Uint32Array(id.buffer, id.byteOffset, id.byteLength / 4) })
    attributes.ids = shot.objects.map((o, i) => `${i + 1} ${objects.get(o.id)}`).join('; ')
  }
  const words = (name: string) => {
    const b = got.get(name)
    return b && new Uint32Array(b.buffer, b.byteOffset, b.byteLength / 4)
  }
  const [particle, system] = [words('particle id'), words('particle system')]
  if (particle && system) {
    channels.push({ name: 'particle.id', type: 'uint', data: particle }, { name: 'particle.system', type: 'uint', data: system })
    attributes.systems = shot.systems.map((s, i) => `${i + 1} ${plain(s.name)}`).join('; ')
  }
  return { channels, attributes }
}
export interface FrameFile {
  kind: 'png' | 'png16' | 'exr'
  bytes: Uint8Array
}
/** The same part of whatever a picture has by pixels, the top row first. */
function cropped(data: Uint8Array, { width, height }: { width: number; height: number }, r: Region): Uint8Array {
  const bytes = data.length / (width * height)
  const out = new Uint8Array(r.width * r.height * bytes)
  for (let y = 0; y < r.height; y++) {
    const from = ((r.top + y) * width + r.left) * bytes
    out.set(data.subarray(from, from + r.width * bytes), y * r.width * bytes)
  }
  return out
}
/** The files of a frame, or of a part of it: finishes have seen the whole picture. PNG has straight alpha, EXR light premultiplied by it. */
export function filesOf(
  shot: Shot,
  all: ReadonlyMap<string, Uint8Array>,
  whole: { width: number; height: number; transparent: boolean; region?: Region | null },
  f: FrameFormats,
): FrameFile[] {
  const out: FrameFile[] = []
  const { transparent, region } = whole
  const { width, height } = region ?? whole
  const got = region ? new Map([...all].map(([name, data]) => [name, cropped(data, whole, region)])) : all
  const screen = got.get('screen')
  const deep = got.get('deep')
  if (f.exr) {
    // A part of the picture lies where it lies in all of it.
    const within = { left: region?.left ?? 0, top: region?.top ?? 0, width: whole.width, height: whole.height }
    const { channels, attributes } = exrChannels(shot, got, f.exrType, transparent)
    out.push({ kind: 'exr', bytes: writeExr(width, height, channels, attributes, within) })
  }
  if (deep)
    out.push({
      kind: 'png16',
      bytes: writePng16(width, height, new Float32Array(deep.buffer, deep.byteOffset, deep.byteLength / 4), transparent),
    })
  if (screen) out.push({ kind: 'png', bytes: writePng(width, height, screen, transparent) })
  return out
}

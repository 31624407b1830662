import { blackBodyColour, MARCH_SAMPLES, type MarchLight, type MarchLook, type MarchScene } from '../engine'
import {
  GAS_TONES,
  type GasDoc,
  type LightDoc,
  type Ramp,
  type Shot,
  sampleColour,
  sampleNumber,
  sampleRamp,
  sampleVec3,
  type Vec3,
} from '../shot'
import { ambientOf } from './ambient'
import type { VolumeDrawing } from './drawing'
import { lightShare, shiningLights } from './lit'
import { curveTable } from './lookTables'
import { readerOf } from './reader'
import { actOfSort } from './registry'

/** How a gas is drawn at t, by its look; of several cards of a kind the last counts. */
export const volumeDrawing = (gas: GasDoc, t: number): VolumeDrawing => ({
  ...{ smoke: null, glow: null },
  ...Object.assign({}, ...gas.look.filter((a) => !a.muted).map((a) => actOfSort(a.kind, 'gasLook').volume(readerOf(a), t))),
})
/** Tables of ramps, which the document shares while they stay the same. */
const ramps = new WeakMap<Ramp, Float32Array>()
const shares = Array.from({ length: MARCH_SAMPLES }, (_, i) => i / (MARCH_SAMPLES - 1))
const colourTable = (of: (x: number) => readonly number[]): Float32Array => Float32Array.from(shares.flatMap((x) => [...of(x), 1]))
function rampTable(r: Ramp): Float32Array {
  let out = ramps.get(r)
  if (!out) ramps.set(r, (out = colourTable((x) => sampleRamp(r, x))))
  return out
}
/** Colours of black bodies between two temperatures, K; they shine as the fourth power of it (Stefan and Boltzmann). */
const bodyTable = (coldest: number, hottest: number): Float32Array =>
  colourTable((x) => {
    const kelvin = coldest + (hottest - coldest) * x
    const bright = (kelvin / Math.max(coldest, hottest)) ** 4
    return blackBodyColour(kelvin).map((c) => c * bright)
  })
/** What is known of a gas document: the same numbers give the same look, which a picture need not be made anew for. */
const looks = new WeakMap<GasDoc, Map<string, MarchLook>>()
/** How a gas is seen at t. */
export function marchLook(gas: GasDoc, t: number): MarchLook {
  const { smoke, glow } = volumeDrawing(gas, t)
  const known = looks.get(gas) ?? new Map<string, MarchLook>()
  looks.set(gas, known)
  const key = JSON.stringify([smoke, glow])
  const old = known.get(key)
  if (old) return old
  const made: MarchLook = {
    tops: GAS_TONES.map((g) => gas.tones[g].top),
    smoke: smoke && {
      ...smoke,
      tint: smoke.tint
        ? { by: GAS_TONES.indexOf(smoke.tint), share: smoke.mixed, colours: rampTable(gas.tones[smoke.tint].colour) }
        : undefined,
      by: GAS_TONES.indexOf(smoke.by),
      tone: curveTable(gas.tones[smoke.by].curve),
    },
    glow: glow && {
      by: GAS_TONES.indexOf(glow.by),
      tone: curveTable(gas.tones[glow.by].curve).map((x) => x * glow.strength),
      colours: glow.colour === 'ramp' ? rampTable(gas.tones[glow.rampOf].colour) : bodyTable(glow.coldest, glow.hottest),
      coloursBy: GAS_TONES.indexOf(glow.colour === 'blackBody' ? 'temperature' : glow.rampOf),
    },
  }
  known.set(key, made)
  return made
}
const unit = (v: readonly number[]): Vec3 => {
  const l = Math.hypot(...v) || 1
  return v.map((x) => x / l) as Vec3
}
/** The lights of a shot at t, as what is soft sees them, with its share of the surroundings. `shadows`: of each of the lights in turn; `of`: the element. */
export function marchScene(shot: Shot, share: number, t: number, shadows: readonly MarchLight['shadow'][] = [], of = ''): MarchScene {
  const { above, below } = ambientOf(shot, t)
  const lights = lightsAt(shot, t, (l) => (sampleNumber(l.onGas, t) / 100) * lightShare(l, of)).map((l, i) => ({
    ...l,
    shadow: shadows[i],
  }))
  return { lights, above: above.map((x) => x * share) as Vec3, below: below.map((x) => x * share) as Vec3 }
}
/** The lights that shine at t, in their order, each times a share of it. */
export function lightsAt(shot: Shot, t: number, share: (l: LightDoc) => number = () => 1): MarchLight[] {
  return shiningLights(shot).map((l): MarchLight => {
    const place = sampleVec3(l.place, t)
    const aim = unit(sampleVec3(l.aim, t).map((x, a) => x - place[a]))
    const strength = sampleNumber(l.strength, t) * share(l)
    const angle = (sampleNumber(l.angle, t) * Math.PI) / 180
    return {
      place: l.kind === 'sun' ? (aim.map((x) => -x) as Vec3) : place,
      sun: l.kind === 'sun',
      colour: sampleColour(l.colour, t).map((x) => x * strength) as Vec3,
      // Where in the cone a spot begins to fade is as for objects; an area shines to its front, about by the cosine.
      spot:
        l.kind === 'area'
          ? { aim, from: 0, to: 1 }
          : l.kind === 'spot'
            ? { aim, from: Math.cos(angle), to: Math.cos(angle * (1 - sampleNumber(l.edge ?? 50, t) / 100)) }
            : null,
    }
  })
}

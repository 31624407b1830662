import type { ActDoc, GasDoc, Shot } from '../../shot'
import { dyeTones, straightTone } from '../gasTones'
import { act, quiet } from './quiet'
import { primitive, thing } from './things'

const straight = (top: number) => straightTone(top, [{ at: 0, colour: [1, 0.5, 0.2] }])
/** A gas of a metre over the floor that nothing feeds. */
export const gasDoc = (o: Partial<GasDoc> = {}): GasDoc => ({
  ...{ id: 'gas', name: 'Gas', seed: 3, voxel: 0.05, place: [0, 0.5, 0], size: [1.6, 1.6, 1.6], steps: 4, stepping: 'speed' },
  ...{ timeScale: 100, detail: 1, detailIn: 'renders', eddies: 100, rides: null },
  ...{ openLeft: true, openRight: true, openBelow: true, openAbove: true, openBack: true, openFront: true },
  ...{ feeds: [], motion: [], burning: [], look: [] },
  tones: { density: straight(1), temperature: straight(1500), flame: straight(1), ...dyeTones() },
  ...o,
})
/** A gas with one act in the list that takes it. */
export const gasWith = (list: 'feeds' | 'motion' | 'burning' | 'look', act: Record<string, unknown>): GasDoc =>
  gasDoc({ [list]: [act as ActDoc] })

/** A ball that feeds a gas, and nothing else. */
export const smoking = (o: Partial<GasDoc> = {}, change: (s: Shot) => void = () => {}): Shot =>
  quiet((s) => {
    s.systems = []
    s.objects = [thing('ball', { shape: primitive('sphere', { radius: 0.2 }), place: [0, 0.3, 0] })]
    s.gases = [gasDoc({ feeds: [feed()], motion: [act('rise')], look: [act('smoke'), act('glow')], ...o })]
    change(s)
  })
export const feed = (o: Record<string, unknown> = {}) =>
  act('fromObject', {
    object: 'ball',
    where: 'inside',
    end: null,
    densityHow: 'set',
    density: 1,
    temperatureHow: 'set',
    temperature: 200,
    ...o,
  })

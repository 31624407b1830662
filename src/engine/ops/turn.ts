import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { FULL } from './share'
import type { OpWriter } from './writer'

/** What is behind it are conditions and turns: they run when the substep's motion is done. */
export const turnsOp = defineOp({ name: 'turns', code: 49, group: 'other', kernel: 'index', words: {} })
export const encodeTurns = (w: OpWriter): void => void w.write(turnsOp, {})

export const turnsOfOp = defineOp({ name: 'turnsOf', code: 51, group: 'other', kernel: 'turns', words: { phase: u32() } })
/** What follows, up to the next of its kind, is for those alone who are in a phase. */
export const encodeTurnsOf = (w: OpWriter, phase: number): void => void w.write(turnsOfOp, { phase })

export const turnOp = defineOp({
  name: 'turn',
  code: 50,
  group: 'other',
  kernel: 'turnTaken',
  words: {
    row: i32(),
    from: u32(),
    /** −1: the life ends. */
    to: i32(),
    scale: f32(),
    scaleVary: f32(),
    push: f32(3),
    scatter: f32(),
    /** Radians by which the velocity is turned, any way round, and its ±. */
    deflect: f32(),
    deflectVary: f32(),
    /** Factor on its size, and its ±. */
    size: f32(),
    sizeVary: f32(),
    /** Whether the life left is set, s, with its ±. */
    renew: u32(),
    life: f32(),
    lifeVary: f32(),
    free: u32(),
    /** Whether its draws are made again. */
    redraw: u32(),
    /** Of TURN_MODES, and what a turn that copies or takes away leaves in the column `turned`. */
    mode: u32(),
    mark: u32(),
    /** How many took it: counted by the kernel. */
    taken: u32(),
  },
})
/** The particle itself goes; a copy of it goes, and its own time in the phase begins anew; it leaves the system. */
export const TURN_MODES = ['go', 'copy', 'leave'] as const
/** What a turn does beside changing the phase. */
export interface TurnEffect {
  /** Of the velocity, and its ±; m/s that are added to it, and m/s in any direction. */
  scale: number
  scaleVary: number
  push: readonly [number, number, number]
  scatter: number
  /** Radians by which the velocity is turned, any way round, before it is pushed; and its ±. */
  deflect: number
  deflectVary: number
  /** Times its size, and ±; only a system with the column `size` keeps it. */
  size: number
  sizeVary: number
  /** Seconds left to live and their ±; null: as many as it had. */
  life: readonly [number, number] | null
  /** Lets go of what it sticks to and of the place it keeps. */
  free: boolean
  /** Another seed: what is drawn for it, as its colour and its size, is drawn again. A copy always has one. */
  redraw: boolean
}
/** Nothing beside the phase. */
export const NO_EFFECT: TurnEffect = {
  ...{ scale: 1, scaleVary: 0, push: [0, 0, 0], scatter: 0, deflect: 0, deflectVary: 0, size: 1, sizeVary: 0 },
  ...{ life: null, free: false, redraw: false },
}
/** Particles of phase `from` whose condition stands in `row` go to phase `to`, or end. Returns the word in which they are counted. */
export function encodeTurn(
  w: OpWriter,
  t: { row: number; from: number; to: number | null; mode?: (typeof TURN_MODES)[number]; mark?: number },
  e: TurnEffect,
  seed: number,
): number {
  const { row, from, to } = t
  const { scale, scaleVary, push, scatter, deflect, deflectVary, size, sizeVary } = e
  const motion = { scale, scaleVary, push, scatter, deflect, deflectVary, size, sizeVary }
  const life = { renew: e.life ? 1 : 0, life: e.life?.[0] ?? 0, lifeVary: e.life?.[1] ?? 0 }
  const start = w.write(
    turnOp,
    {
      row,
      from,
      to: to ?? -1,
      ...motion,
      ...life,
      free: e.free ? 1 : 0,
      redraw: e.redraw ? 1 : 0,
      mode: TURN_MODES.indexOf(t.mode ?? 'go'),
      mark: t.mark ?? 0,
      taken: 0,
    },
    seed,
    FULL,
  )
  return w.wordOf(start, turnOp, 'taken')
}

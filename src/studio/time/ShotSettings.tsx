'use client'
import type { ReactNode } from 'react'
import { apartWords } from '../../engine'
import { isFree, isKeyed, type Shot } from '../../shot'
import { NumberField } from '../fields/NumberField'
import { ColourField, SwitchField } from '../fields/plainFields'
import { edit, studio, useShot, useStudio } from '../store'
import { Select } from '../ui'
import { SkyRows } from './SkyRows'

/** As fractions: the film and television rates are exact. Keys and moments keep their seconds when the rate changes. */
const RATES = [
  ['24', 24, 1],
  ['25', 25, 1],
  ['30', 30, 1],
  ['50', 50, 1],
  ['60', 60, 1],
  ['23.976', 24000, 1001],
  ['29.97', 30000, 1001],
  ['59.94', 60000, 1001],
].map(([label, num, den]) => ({ value: `${num}/${den}`, label: `${label} /s` }))
/** Frame range, rate and substeps of the shot, in the board's menu of the shot. */
export function ShotSettings() {
  const shot = useShot((s) => s)
  const fps = shot.rate.num / shot.rate.den
  const row = (label: string, children: ReactNode) => (
    <div className="flex items-center gap-2">
      <span className="w-20 shrink-0 text-moss">{label}</span>
      {children}
    </div>
  )
  const whole = (label: string, value: number, min: number, max: number, unit: '' | '1/s', set: (s: typeof shot, v: number) => void) => (
    <NumberField
      className="w-24"
      label={label}
      value={value}
      fps={fps}
      spec={{ unit, min, max, integer: true, soft: [min, Math.min(max, min + 300)] }}
      onChange={(v, g) => edit(label.toLowerCase(), (s) => set(s, v), g)}
    />
  )
  const rate = `${shot.rate.num}/${shot.rate.den}`
  const rates = RATES.some((r) => r.value === rate) ? RATES : [...RATES, { value: rate, label: `${Number(fps.toFixed(3))} /s` }]
  const setRate = (v: string) => {
    const [num, den] = v.split('/').map(Number)
    edit('frame rate', (s) => void (s.rate = { num, den }))
  }
  const light = isKeyed(shot.surroundings.light) || isFree(shot.surroundings.light) ? null : shot.surroundings.light
  return (
    <div className="flex flex-col gap-1.5">
      {row(
        'Frames',
        <div className="w-24">
          <Select label="Frame rate" value={rate} options={rates} onChange={setRate} />
        </div>,
      )}
      {row(
        'Last frame',
        whole('Last frame', shot.range.last, shot.range.first + 1, 100000, '', (s, v) => void (s.range.last = v)),
      )}
      {row(
        'Opens at',
        <button
          type="button"
          className="flex h-6 items-center rounded-md border border-twig bg-night px-2 hover:border-moss"
          onClick={() => edit('frame at which the shot opens', (s) => void (s.opens = studio().playhead))}
        >
          {shot.opens ?? shot.range.first} f; make it this frame
        </button>,
      )}
      <LoopRows shot={shot} fps={fps} row={row} />
      {row(
        'Warm start',
        <NumberField
          className="w-24"
          label="Warm start"
          value={shot.warm}
          fps={fps}
          spec={{ unit: 's', min: 0, max: 3600, soft: [0, 10] }}
          onChange={(v, g) => edit('warm start', (s) => void (s.warm = v), g)}
        />,
      )}
      {row(
        'Substeps',
        whole('Substeps', shot.substeps, 1, 64, '', (s, v) => void (s.substeps = v)),
      )}
      {row(
        'Width',
        whole('Width', shot.size.width, 16, 8192, '', (s, v) => void (s.size.width = v)),
      )}
      {row(
        'Height',
        whole('Height', shot.size.height, 16, 8192, '', (s, v) => void (s.size.height = v)),
      )}
      {row(
        'Background',
        <ColourField
          label="Background"
          value={shot.surroundings.colour}
          onChange={(c, g) => edit('background', (s) => void (s.surroundings.colour = c), g)}
        />,
      )}
      <SkyRows row={row} />
      {light &&
        !shot.surroundings.sky &&
        row(
          'Even light',
          <ColourField
            label="Even light"
            value={light}
            onChange={(c, g) => edit('even light', (s) => void (s.surroundings.light = c), g)}
          />,
        )}
      {row(
        'Seed',
        whole('Seed', shot.seed, 0, 4294967295, '', (s, v) => void (s.seed = v)),
      )}
    </div>
  )
}
/** Whether the shot plays round and round, over how long it goes over into its beginning, and how far its ends are apart. */
function LoopRows({ shot, fps, row }: { shot: Shot; fps: number; row: (label: string, children: ReactNode) => ReactNode }) {
  const ends = useStudio((s) => s.status?.ends ?? null)
  return (
    <>
      {row(
        'Loops',
        <SwitchField
          label="Loops"
          on={shot.loop !== null}
          onChange={(on) => edit('loop', (s) => void (s.loop = on ? { cross: 0 } : null))}
        />,
      )}
      {shot.loop &&
        row(
          'Goes over',
          <NumberField
            className="w-24"
            label="Goes over"
            value={shot.loop.cross}
            fps={fps}
            spec={{ unit: 's', min: 0, max: 60, soft: [0, 2] }}
            onChange={(v, g) => edit('going over into the beginning', (s) => void (s.loop = { cross: v }), g)}
          />,
        )}
      {shot.loop && (
        <p className="max-w-64 text-caption text-moss">
          {ends
            ? `The frame after the last beside the first: ${apartWords(ends)}.`
            : 'How far the ends are apart is known when all frames are ready.'}
          {ends && (ends.alone > 0 || ends.metres > 0 || ends.gas > 0) && !shot.loop.cross
            ? ' Let the end go over into the beginning for some seconds.'
            : ''}
        </p>
      )}
    </>
  )
}

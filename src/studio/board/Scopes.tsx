'use client'
import { useEffect, useRef, useState } from 'react'
import type { Scope } from '../../protocol'
import { BRIGHTEST, DARKEST, histogram, stopOf, waveform } from '../../stage/finish/scope'
import { PLAIN_2D } from '../canvas'
import { setStudio, useShot, useStudio } from '../store'
import { cx } from '../ui'
import { useSize } from '../useSize'
import { Column } from './Column'

/** Pixels across of the picture that is measured: as fine as the columns of a scope. */
const WIDTH = 240
/** Measured again this long after the last change: the View comes first. */
const AFTER_MS = 260

/** The light of the present frame, measured when the View stands still; null until then. */
export function useScope(wanted: boolean): Scope | null {
  const [scope, setScope] = useState<Scope | null>(null)
  const session = useStudio((s) => s.session)
  const playing = useStudio((s) => s.playing)
  const drawn = useStudio((s) => (s.drawn?.ready ? `${s.drawn.frame} ${s.drawn.revision}` : ''))
  const aspect = useShot((s) => s.size.height / s.size.width)
  useEffect(() => {
    if (!wanted || !session || playing || !drawn) return
    const stop = new AbortController()
    const timer = setTimeout(async () => {
      const settled = await session.ask({ what: 'scope', width: WIDTH, height: Math.max(16, Math.round(WIDTH * aspect)) }, stop.signal)
      if (settled.state === 'answered' && settled.value) setScope(settled.value)
    }, AFTER_MS)
    return () => {
      stop.abort()
      clearTimeout(timer)
    }
  }, [wanted, session, playing, drawn, aspect])
  return wanted ? scope : null
}
const STEPS = 96
const CHANNELS = ['#e0644f', '#7dbb6a', '#6f9be0']
/** Brightness by the column of the picture, or how much of the picture has each: in stops, white marked. */
export function ScopesColumn({ scope }: { scope: Scope | null }) {
  const [kind, setKind] = useState<'wave' | 'counts'>('wave')
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width, height } = useSize(canvas)
  const marks = useStudio((s) => s.marks)
  useEffect(() => {
    const c = canvas.current
    if (!c || width < 8 || height < 8) return
    c.width = Math.round(width * devicePixelRatio)
    c.height = Math.round(height * devicePixelRatio)
    const g = c.getContext('2d', PLAIN_2D)
    if (g) draw(g, c.width, c.height, scope, kind)
  }, [scope, kind, width, height])
  const clipped = scope ? share(scope, (v) => v >= 1) : 0
  const below = scope ? share(scope, (v) => v < 0) : 0
  const tab = (id: typeof kind, name: string) => (
    <button
      type="button"
      aria-pressed={kind === id}
      className={cx('rounded-md px-1.5', kind === id ? 'bg-fern text-mist' : 'text-moss hover:text-mist')}
      onClick={() => setKind(id)}
    >
      {name}
    </button>
  )
  return (
    <Column
      title="Light"
      tools={
        <>
          {tab('wave', 'Waveform')}
          {tab('counts', 'Histogram')}
        </>
      }
    >
      <div className="flex h-full min-h-[110px] flex-col gap-1">
        <canvas
          ref={canvas}
          className="min-h-[72px] w-full flex-1 rounded-md bg-night"
          aria-label="Light of the picture in stops"
          role="img"
        />
        <p className="px-1 text-moss">
          {scope ? (
            <>
              <b className="text-mist">{percent(clipped)}</b> at white or above
              {below > 0 && (
                <>
                  , <b className="text-mist">{percent(below)}</b> below nothing
                </>
              )}
              .
            </>
          ) : (
            'Measured when the View stands still.'
          )}{' '}
          <button type="button" className="text-mist underline decoration-twig" onClick={() => setStudio({ marks: !marks })}>
            {marks ? 'Mark nothing' : 'Mark what the screen cuts off'} (W)
          </button>
        </p>
      </div>
    </Column>
  )
}
export const percent = (v: number): string => `${v > 0 && v < 0.001 ? 'under 0.1' : Number((v * 100).toFixed(v < 0.1 ? 1 : 0))} %`
function share({ after: d }: Scope, counts: (v: number) => boolean): number {
  let n = 0
  for (let i = 0; i < d.length; i += 4) if (counts(d[i]) || counts(d[i + 1]) || counts(d[i + 2])) n++
  return (n * 4) / Math.max(4, d.length)
}
function draw(g: CanvasRenderingContext2D, w: number, h: number, scope: Scope | null, kind: 'wave' | 'counts'): void {
  g.fillStyle = '#0d1512'
  g.fillRect(0, 0, w, h)
  const small = 10 * devicePixelRatio
  g.font = `${small}px Figtree, sans-serif`
  const upright = kind === 'wave'
  for (let stop = DARKEST; stop <= BRIGHTEST; stop += 2) {
    const at = stopOf(2 ** stop)
    g.fillStyle = stop === 0 ? '#9fb0a4' : '#26332d'
    if (upright) g.fillRect(0, Math.round(h - at * h), w, 1)
    else g.fillRect(Math.round(at * w), 0, 1, h)
    g.fillStyle = '#8fa096'
    const name = stop === 0 ? 'white' : stop > 0 ? `+${stop}` : `${stop}`
    if (upright) g.fillText(name, 4, Math.min(h - 2, Math.max(small, h - at * h - 2)))
    else if (stop < BRIGHTEST) g.fillText(name, at * w + 3, small)
  }
  if (!scope) return
  if (kind === 'counts') {
    const counts = histogram(scope, STEPS)
    const most = Math.max(1, ...counts.flatMap((c) => [...c.subarray(1)]))
    g.globalCompositeOperation = 'lighter'
    counts.forEach((c, k) => {
      g.strokeStyle = CHANNELS[k]
      g.lineWidth = devicePixelRatio
      g.beginPath()
      for (let i = 1; i < STEPS; i++) g.lineTo(((i + 0.5) / STEPS) * w, h - Math.sqrt(c[i] / most) * (h - small - 4))
      g.stroke()
    })
    g.globalCompositeOperation = 'source-over'
    return
  }
  const columns = Math.min(WIDTH, w)
  const wave = waveform(scope, columns, STEPS)
  const most = Math.max(1, (scope.height * scope.width) / columns / 12)
  const image = new ImageData(columns, STEPS)
  for (let x = 0; x < columns; x++)
    for (let y = 0; y < STEPS; y++) {
      const v = y ? Math.min(1, Math.sqrt(wave[x * STEPS + y] / most)) : 0
      image.data.set([205, 225, 210, v * 255], ((STEPS - 1 - y) * columns + x) * 4)
    }
  const own = new OffscreenCanvas(columns, STEPS)
  own.getContext('2d')?.putImageData(image, 0, 0)
  g.drawImage(own, 0, 0, w, h)
}

'use client'
import { useState } from 'react'
import { shotPose } from '../../acts'
import { looksOfPose, timeOf } from '../../shot'
import { api, messageOf, type RenderSettings } from '../api'
import { NumberField } from '../fields/NumberField'
import { SwitchField } from '../fields/plainFields'
import { saveNow } from '../page'
import { setStudio, shotNow, studio, useStudio } from '../store'
import { Button, cx } from '../ui'
import { Modal } from './Modal'

const FORMATS = [
  { id: 'png', name: 'PNG files', help: 'one a frame' },
  { id: 'webm', name: 'WebM', help: 'VP9, keeps transparency' },
  { id: 'mp4', name: 'MP4', help: 'H.264, without transparency' },
] as const
const SIZES = [1, 2 / 3, 0.5]
const even = (v: number) => Math.max(16, Math.round(v / 2) * 2)

export function RenderDialog() {
  const open = useStudio((s) => s.dialog === 'render')
  return (
    <Modal open={open} onClose={() => setStudio({ dialog: null })} title={`Render ${open ? shotNow().name : ''}`}>
      {open && <Form />}
    </Modal>
  )
}
function Form() {
  const shot = shotNow()
  const pose = shotPose(shot, timeOf(shot, shot.range.first))
  const looks = looksOfPose(pose)
  const [s, setS] = useState<RenderSettings>({
    first: shot.range.first,
    last: shot.range.last,
    width: even((shot.size.width * 2) / 3),
    height: even((shot.size.height * 2) / 3),
    transparent: false,
    formats: ['png', 'mp4'],
    frameMinutes: 10,
  })
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const frames = s.last - s.first + 1
  const field = (label: string, key: 'first' | 'last' | 'width' | 'height', min: number, max: number) => (
    <NumberField
      className="w-24"
      label={label}
      value={s[key]}
      fps={1}
      spec={{ unit: '', min, max, integer: true, soft: [min, max] }}
      onChange={(v) => setS({ ...s, [key]: v })}
    />
  )
  const wrong =
    s.last < s.first
      ? 'The last frame comes before the first.'
      : !s.formats.length
        ? 'Choose at least one format.'
        : s.formats.some((f) => f !== 'png') && (s.width % 2 || s.height % 2)
          ? 'Movies need an even width and height.'
          : null
  const start = async () => {
    setBusy(true)
    setProblem(null)
    try {
      await saveNow()
      await api.render(studio().id, s)
      setStudio({ dialog: null, tab: 'renders', folded: false })
    } catch (error) {
      setProblem(messageOf(error))
    }
    setBusy(false)
  }
  const row = 'flex min-h-7 items-center gap-2'
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        if (!wrong && !busy) void start()
      }}
    >
      <div className={row}>
        <span className="w-24 text-moss">Frames</span>
        {field('First frame', 'first', shot.range.first, shot.range.last)}
        <span className="text-moss">to</span>
        {field('Last frame', 'last', shot.range.first, shot.range.last)}
        <span className="text-moss">{frames > 0 && `${frames} f, ${((frames * shot.rate.den) / shot.rate.num).toFixed(2)} s`}</span>
      </div>
      <div className={row}>
        <span className="w-24 text-moss">Size</span>
        {field('Width', 'width', 16, 8192)}
        <span className="text-moss">×</span>
        {field('Height', 'height', 16, 8192)}
        <span className="text-moss">px</span>
      </div>
      <div className={row}>
        <span className="w-24" />
        {SIZES.map((k) => {
          const w = even(shot.size.width * k)
          const h = even(shot.size.height * k)
          return (
            <button
              key={k}
              type="button"
              className={cx(
                'h-6 rounded-md border px-2',
                s.width === w && s.height === h ? 'border-mist bg-fern' : 'border-twig text-moss hover:text-mist',
              )}
              onClick={() => setS({ ...s, width: w, height: h })}
            >
              {w} × {h}
            </button>
          )
        })}
      </div>
      <div className="flex items-start gap-2">
        <span className="w-24 pt-1 text-moss">Formats</span>
        <div className="flex flex-col">
          {FORMATS.map((f) => (
            <label key={f.id} className="flex h-6 items-center gap-2">
              <input
                type="checkbox"
                className="accent-[var(--color-mist)]"
                checked={s.formats.includes(f.id)}
                onChange={(e) =>
                  setS({ ...s, formats: FORMATS.map((x) => x.id).filter((x) => (x === f.id ? e.target.checked : s.formats.includes(x))) })
                }
              />
              {f.name} <span className="text-moss">{f.help}</span>
            </label>
          ))}
        </div>
      </div>
      <div className={row}>
        <span className="w-24 text-moss">Transparent</span>
        <SwitchField label="Transparent" on={s.transparent} onChange={(transparent) => setS({ ...s, transparent })} />
        <span className="text-moss">
          {s.transparent ? 'Glow keeps its colour; over black it looks the same.' : 'On the shot’s background.'}
        </span>
      </div>
      <div className={row}>
        <span className="w-24 text-moss">Time limit</span>
        <NumberField
          className="w-24"
          label="Minutes a frame, at most"
          value={s.frameMinutes}
          fps={1}
          spec={{ unit: '', min: 0.1, max: 1440, soft: [1, 60] }}
          onChange={(frameMinutes) => setS({ ...s, frameMinutes })}
        />
        <span className="text-moss">minutes a frame, run-up included</span>
      </div>
      {looks > 1 && (
        <p className="text-moss">
          The camera’s {pose.blur ? (pose.open ? 'lens and shutter are' : 'lens is') : 'shutter is'} open: each frame is the mean of {looks}{' '}
          pictures, and takes as long as they do.
        </p>
      )}
      <p className="text-moss">Every frame is kept as a PNG as soon as it is drawn; a render that is stopped can go on later.</p>
      {(problem || wrong) && (
        <p role="alert" className={problem ? 'text-berry' : 'text-amber'}>
          {problem ?? wrong}
        </p>
      )}
      <div className="mt-1 flex justify-end gap-2">
        <Button onClick={() => setStudio({ dialog: null })}>Cancel</Button>
        <Button main type="submit" disabled={busy || wrong !== null}>
          Render {frames > 0 ? frames : ''} {frames === 1 ? 'frame' : 'frames'}
        </Button>
      </div>
    </form>
  )
}

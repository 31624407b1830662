'use client'
import { useEffect, useState } from 'react'
import { shotPose } from '../../acts'
import type { PassName } from '../../protocol'
import { looksOfPose, timeOf } from '../../shot'
import { api, messageOf, type RenderSettings } from '../api'
import { NumberField } from '../fields/NumberField'
import { SwitchField } from '../fields/plainFields'
import { saveNow } from '../page'
import { setStudio, shotNow, studio, useStudio } from '../store'
import { Button, cx } from '../ui'
import { Modal } from './Modal'
import { RegionRow } from './RegionRow'

const FORMATS = [
  { id: 'png', name: 'PNG files', help: '8 bits, straight alpha; always kept' },
  { id: 'png16', name: 'PNG of 16 bits', help: 'straight alpha' },
  { id: 'exr', name: 'EXR files', help: 'light as it is, premultiplied; passes' },
  { id: 'webm', name: 'WebM', help: 'VP9, keeps transparency' },
  { id: 'mp4', name: 'MP4', help: 'H.264, without transparency' },
  { id: 'mov', name: 'MOV', help: 'ProRes 4444, straight alpha' },
] as const
const PASSES: { id: PassName; name: string; help: string }[] = [
  { id: 'layers', name: 'Layers', help: 'each layer with its finishes, as it goes over the others' },
  { id: 'unfinished', name: 'Before finishes', help: 'all layers together, without what the picture’s finishes do' },
  { id: 'lights', name: 'Light by light', help: 'what each light adds, and what shines by itself; each takes as long as the picture' },
  { id: 'emission', name: 'Light of gases', help: 'what glows, and what it lights' },
  { id: 'depth', name: 'Depth', help: 'of objects, metres along the way of the camera' },
  { id: 'normal', name: 'Normals', help: 'of objects, in the shot’s space' },
  { id: 'motion', name: 'Motion', help: 'of objects, pixels to the right and up until the next frame' },
  { id: 'id', name: 'Ids', help: 'the number of the object; the file says whose it is' },
  { id: 'masks', name: 'Masks', help: 'how much of each pixel each object covers' },
  { id: 'particles', name: 'Particles', help: 'the id of the nearest particle and the number of its system, as discs of their size' },
]
const SIZES = [1, 2 / 3, 0.5]
const even = (v: number) => Math.max(16, Math.round(v / 2) * 2)

const duration = (s: number): string =>
  s < 10 ? `${s.toFixed(1)} s` : s < 90 ? `${Math.round(s)} s` : s < 5400 ? `${Math.round(s / 60)} min` : `${(s / 3600).toFixed(1)} h`

const pixelsOf = (s: RenderSettings): number => (s.region ?? s).width * (s.region ?? s).height
const megabytes = (bytes: number): string =>
  bytes > 1e9 ? `${(bytes / 2 ** 30).toFixed(1)} GB` : `${Math.max(1, Math.round(bytes / 2 ** 20))} MB`

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
    every: 1,
    exrType: 'half',
    passes: [],
    region: null,
    frameMinutes: 10,
  })
  // What the PNG files of the last render took for a pixel says what these will take.
  const [pixelBytes, setPixelBytes] = useState<number | null>(null)
  useEffect(() => {
    void api.renders(studio().id).then(
      (jobs) => {
        const last = jobs.find((j) => j.frameBytes)
        if (last?.frameBytes) setPixelBytes(last.frameBytes / pixelsOf(last.settings))
      },
      () => {},
    )
  }, [])
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const frames = Math.floor((s.last - s.first) / s.every) + 1
  const playhead = useStudio((x) => x.playhead)
  const drawn = useStudio((x) => x.drawn)
  // As the View drew its last whole picture, by the number of pixels and of looks.
  const whole = drawn && drawn.scale === 1 && drawn.share === 1 ? drawn : null
  const frameS = whole ? (whole.ms / 1000) * ((s.width * s.height) / (whole.width * whole.height)) * looks : null
  const field = (label: string, key: 'first' | 'last' | 'width' | 'height', min: number, max: number) => (
    <NumberField
      className={key === 'first' || key === 'last' ? 'w-[72px]' : 'w-24'}
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
        : s.formats.some((f) => f === 'webm' || f === 'mp4' || f === 'mov') && [s.region ?? s].some((r) => r.width % 2 || r.height % 2)
          ? 'Movies need an even width and height.'
          : s.region && (s.region.left + s.region.width > s.width || s.region.top + s.region.height > s.height)
            ? 'The part lies outside the picture: draw it again.'
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
        <span className="text-moss">every</span>
        <NumberField
          className="w-14"
          label="Every nth frame"
          value={s.every}
          fps={1}
          spec={{ unit: '', min: 1, max: 1000, integer: true, soft: [1, 12] }}
          onChange={(every) => setS({ ...s, every })}
        />
        <button
          type="button"
          className="h-6 shrink-0 rounded-md border border-twig px-2 hover:bg-fern"
          onClick={() => setS({ ...s, first: playhead, last: playhead })}
        >
          This frame
        </button>
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
      <RegionRow size={s} region={s.region} onChange={(region) => setS({ ...s, region })} />
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
      {s.formats.includes('exr') && (
        <div className="flex items-start gap-2">
          <span className="w-24 pt-1 text-moss">In EXR</span>
          <div className="flex flex-col">
            <div className="grid grid-cols-2 gap-x-6">
              {PASSES.map((p) => (
                <label key={p.id} className="flex h-6 items-center gap-2" title={p.help}>
                  <input
                    type="checkbox"
                    className="accent-[var(--color-mist)]"
                    checked={s.passes.includes(p.id)}
                    onChange={(e) =>
                      setS({ ...s, passes: PASSES.map((x) => x.id).filter((x) => (x === p.id ? e.target.checked : s.passes.includes(x))) })
                    }
                  />
                  {p.name}
                </label>
              ))}
              <label className="flex h-6 items-center gap-2" title="Light as 32-bit floats in place of halves; files are twice as large">
                <input
                  type="checkbox"
                  className="accent-[var(--color-mist)]"
                  checked={s.exrType === 'float'}
                  onChange={(e) => setS({ ...s, exrType: e.target.checked ? 'float' : 'half' })}
                />
                Whole floats
              </label>
            </div>
          </div>
        </div>
      )}
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
      <p className="text-moss">
        {frames > 0 && `${frames} f, ${((frames * s.every * shot.rate.den) / shot.rate.num).toFixed(2)} s. `}
        {frameS !== null &&
          frames > 0 &&
          `Drawing takes about ${duration(frameS)} a frame and ${duration(frameS * frames)} in all, as the View took for its last picture; simulating comes to it. `}
        {pixelBytes !== null &&
          frames > 0 &&
          `PNG files take about ${megabytes(pixelBytes * pixelsOf(s) * frames)} in all, as those of the last render did. `}
        Every frame is kept as soon as it is drawn; a render that is stopped can go on later.
      </p>
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

'use client'
import { ChevronsUp, Download, Film, Play, Square, SquareSplitHorizontal, Trash2 } from 'lucide-react'
import { useCallback, useEffect, useState } from 'react'
import { api, type Job, messageOf, type RenderSettings } from '../api'
import { setStudio, useStudio } from '../store'
import { toast } from '../toast'
import { Button, cx, IconButton } from '../ui'

export const FORMAT_NAMES: Record<RenderSettings['formats'][number], string> = {
  png: 'PNG',
  png16: 'PNG 16',
  exr: 'EXR',
  webm: 'WebM',
  mp4: 'MP4',
  mov: 'MOV',
}
export const STATES: Record<Job['state'], string> = {
  queued: 'waiting',
  running: 'rendering',
  stopping: 'stopping',
  stopped: 'stopped',
  done: 'done',
  failed: 'failed',
}
export const size = (bytes: number): string =>
  bytes > 2 ** 30
    ? `${(bytes / 2 ** 30).toFixed(1)} GB`
    : bytes > 2 ** 20
      ? `${(bytes / 2 ** 20).toFixed(1)} MB`
      : `${Math.max(1, Math.round(bytes / 1024))} kB`
export const timeLeft = (s: number): string => (s < 60 ? `${s} s left` : `${Math.floor(s / 60)} min ${s % 60} s left`)

/** The renders of this shot, with their pictures as they come. */
export function useJobs(id: string | null): { jobs: Job[]; reload: () => Promise<void>; problem: string | null } {
  const [jobs, setJobs] = useState<Job[]>([])
  const [problem, setProblem] = useState<string | null>(null)
  const reload = useCallback(async () => {
    try {
      setJobs(id ? await api.renders(id) : await api.jobs())
      setProblem(null)
    } catch (error) {
      setProblem(messageOf(error))
    }
  }, [id])
  useEffect(() => {
    let stop = false
    let timer: ReturnType<typeof setTimeout>
    const poll = async () => {
      await reload()
      if (!stop) timer = setTimeout(poll, 1000)
    }
    void poll()
    return () => {
      stop = true
      clearTimeout(timer)
    }
  }, [reload])
  return { jobs, reload, problem }
}
export async function actOnJob(run: () => Promise<unknown>, reload: () => Promise<void>): Promise<void> {
  try {
    await run()
  } catch (error) {
    toast(messageOf(error), true)
  }
  await reload()
}
export function RendersTab() {
  const id = useStudio((s) => s.id)
  const { jobs, reload, problem } = useJobs(id)
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-2">
      {problem && <p className="px-1 pb-2 text-amber">The list cannot be read: {problem}.</p>}
      <div className="flex items-center gap-3 px-1 pb-2 text-moss">
        {!jobs.length && !problem && 'Nothing rendered yet.'}
        <Button onClick={() => setStudio({ dialog: 'render' })}>Render …</Button>
        <Button onClick={() => setStudio({ dialog: 'preview' })}>Preview movie</Button>
        <span>The preview shows what the View has, at once.</span>
      </div>
      <div className="flex flex-col gap-2">
        {jobs.map((j) => (
          <JobRow key={j.id} job={j} reload={reload} />
        ))}
      </div>
    </div>
  )
}
function JobRow({ job: j, reload }: { job: Job; reload: () => Promise<void> }) {
  const busy = j.state === 'running' || j.state === 'queued' || j.state === 'stopping'
  const shown =
    j.frames.length > 10 ? j.frames.filter((_, i) => i % Math.ceil(j.frames.length / 10) === 0 || i === j.frames.length - 1) : j.frames
  const s = j.settings
  const [playing, setPlaying] = useState(false)
  const movie = j.files.find((f) => /\.(mp4|webm)$/.test(f.name))
  return (
    <article aria-label={`Render of ${j.name}`} data-job={j.id} data-state={j.state} className="rounded-md bg-fern/50 px-3 py-2">
      <div className="flex items-center gap-3">
        <b className="font-semibold">
          {s.first}–{s.last} f, {s.width} × {s.height}
        </b>
        <span className="text-moss">
          {s.formats.map((f) => FORMAT_NAMES[f]).join(', ')}
          {s.every > 1 && `, every ${s.every} f`}
          {s.transparent && ', transparent'}
          {s.region && `, part ${s.region.width} × ${s.region.height}`}
        </span>
        <span className={cx(j.state === 'failed' && 'text-berry', j.state === 'done' && 'text-lichen', busy && 'text-mist')}>
          {STATES[j.state]}
          {j.ahead ? `, ${j.ahead} before it` : ''}, {j.done} of {j.total} f
          {j.leftS !== null && j.state === 'running' && j.done < j.total ? `, ${timeLeft(j.leftS)}` : ''}
        </span>
        {j.message && (
          <span title={j.message} className={cx('truncate', j.state === 'failed' ? 'text-berry' : 'text-moss')}>
            {j.message}
          </span>
        )}
        <span className="flex-1" />
        {movie && (
          <button
            type="button"
            aria-pressed={playing}
            className="flex items-center gap-1 underline decoration-twig underline-offset-3"
            onClick={() => setPlaying(!playing)}
          >
            <Film size={13} strokeWidth={1.5} /> {playing ? 'Close the movie' : 'Play'}
          </button>
        )}
        {j.files.map((f) => (
          <a
            key={f.name}
            href={`/api/jobs/${j.id}/files/${f.name}`}
            download={`${j.name} ${f.name}`}
            className="flex items-center gap-1 underline decoration-twig underline-offset-3"
          >
            <Download size={13} strokeWidth={1.5} /> {f.name.split('.').pop()?.toUpperCase()} {size(f.bytes)}
          </a>
        ))}
        {j.done > 0 &&
          (['png', 'png16', 'exr'] as const)
            .filter((k) => k === 'png' || s.formats.includes(k))
            .map((k) => (
              <a
                key={k}
                href={`/api/jobs/${j.id}/zip/${k}`}
                className="flex items-center gap-1 underline decoration-twig underline-offset-3"
                title={`All ${FORMAT_NAMES[k]} frames as a ZIP file`}
              >
                <Download size={13} strokeWidth={1.5} /> {FORMAT_NAMES[k]} ZIP
              </a>
            ))}
        {j.done > 0 && (
          <a
            href={`/api/jobs/${j.id}/sheet`}
            className="flex items-center gap-1 underline decoration-twig underline-offset-3"
            title="Its frames side by side in one PNG file"
          >
            <Download size={13} strokeWidth={1.5} /> Contact sheet
          </a>
        )}
        {j.ahead !== null && j.ahead > 0 && (
          <IconButton
            name="Draw this render before the others that wait"
            onClick={() => void actOnJob(() => api.job(j.id, 'hasten'), reload)}
          >
            <ChevronsUp size={13} strokeWidth={1.5} />
          </IconButton>
        )}
        {j.done > 0 && (
          <IconButton name="Compare with another render" onClick={() => setStudio({ compared: j.id })}>
            <SquareSplitHorizontal size={13} strokeWidth={1.5} />
          </IconButton>
        )}
        {busy ? (
          <IconButton
            name="Stop this render"
            disabled={j.state === 'stopping'}
            onClick={() => void actOnJob(() => api.job(j.id, 'stop'), reload)}
          >
            <Square size={13} strokeWidth={1.5} />
          </IconButton>
        ) : (
          j.state !== 'done' && (
            <IconButton name="Go on with this render" onClick={() => void actOnJob(() => api.job(j.id, 'resume'), reload)}>
              <Play size={13} strokeWidth={1.5} />
            </IconButton>
          )
        )}
        <IconButton name="Delete this render and its files" onClick={() => void actOnJob(() => api.deleteJob(j.id), reload)}>
          <Trash2 size={13} strokeWidth={1.5} />
        </IconButton>
      </div>
      <div className="mt-1.5 h-[3px] bg-night">
        <div
          className={cx('h-full', busy ? 'bg-ember' : j.state === 'done' ? 'bg-lichen' : 'bg-twig')}
          style={{ width: `${(j.done / j.total) * 100}%` }}
        />
      </div>
      {movie && playing && (
        <video
          src={`/api/jobs/${j.id}/files/${movie.name}`}
          controls
          autoPlay
          loop
          muted
          aria-label={`Movie of ${j.name}`}
          className="mt-2 max-h-[320px] bg-black"
        />
      )}
      {shown.length > 0 && (
        <div className="mt-2 flex gap-1 overflow-hidden">
          {shown.map((f) => (
            <a
              key={f}
              href={`/api/jobs/${j.id}/files/${String(f).padStart(4, '0')}.png`}
              target="_blank"
              rel="noreferrer"
              className="block bg-black"
              title={`frame ${f}`}
            >
              <img
                src={`/api/jobs/${j.id}/files/${String(f).padStart(4, '0')}.png`}
                alt={`Frame ${f}`}
                className="h-12 w-auto"
                loading="lazy"
              />
            </a>
          ))}
        </div>
      )}
      <p className="mt-1 truncate text-moss" title={j.folder}>
        Files: {j.folder}
      </p>
    </article>
  )
}

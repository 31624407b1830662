'use client'
import { Columns2, Download, Play, Square, Trash2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { bakedTogether, isFog, maySeparate } from '../../acts'
import { lacksDetail, type Shot } from '../../shot'
import { api, type Bake, messageOf } from '../api'
import { bakedAt, isBusy, reloadBakes } from '../bakes'
import { saveNow } from '../page'
import { setStudio, useShot, useStudio } from '../store'
import { toast } from '../toast'
import { Button, cx, IconButton, Select } from '../ui'
import { STATES, size, timeLeft } from './RendersTab'

const spent = (s: number): string => (s < 90 ? `${Number(s.toPrecision(2))} s` : `${Math.round(s / 60)} min`)
const ALL = 'all'
const namesOf = (shot: Shot, ids: readonly string[]): string[] =>
  [...shot.systems, ...shot.gases].flatMap((e) => (ids.includes(e.id) ? [e.name] : []))
const few = (names: readonly string[]): string =>
  names.length > 3 ? `${names.slice(0, 2).join(', ')} and ${names.length - 2} more` : names.join(', ')
/** What can be baked: all, or each element with those that go along with it. */
function choices(shot: Shot): { value: string; label: string; ids: readonly string[] }[] {
  // A fog is computed with the picture.
  const elements = [...shot.systems, ...shot.gases.filter((g) => !isFog(g))]
  const sets = new Map<string, readonly string[]>()
  for (const e of maySeparate(shot) ? elements : []) {
    const ids = bakedTogether(shot, [e.id])
    if (ids && ids.length < elements.length) sets.set(ids.join(), ids)
  }
  return [
    { value: ALL, label: 'all elements', ids: [] },
    ...[...sets].map(([value, ids]) => ({ value, label: few(namesOf(shot, ids)), ids })),
  ]
}
/** Bakes of the shot: frames that are computed in the background and stay on the disk. */
export function BakesTab() {
  const bakes = useStudio((s) => s.bakes)
  const id = useStudio((s) => s.id)
  const range = useShot((s) => s.range)
  const status = useStudio((s) => s.status)
  const [asking, setAsking] = useState(false)
  const shot = useShot((s) => s)
  const [chosen, choose] = useState(ALL)
  const options = useMemo(() => choices(shot), [shot])
  const of = options.find((o) => o.value === chosen) ?? options[0]
  const frames = range.last - range.first + 1
  const begin = async () => {
    if (!id) return
    setAsking(true)
    try {
      // What is baked is what the server has.
      await saveNow()
      await api.bake(id, { first: range.first, last: range.last, elements: of.ids })
      await reloadBakes()
    } catch (error) {
      toast(messageOf(error), true)
    }
    setAsking(false)
  }
  const ready = [...(status?.beads ?? '')].filter((b) => b === 'r').length
  // What takes long is not computed then, and nobody knows how long it would take.
  const separate = !!status?.apart.length
  const all = bakes.reduce((sum, b) => sum + b.bytes, 0)
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-2">
      <div className="flex items-center gap-3 px-1 pb-2 text-moss">
        <Button onClick={() => void begin()} disabled={asking}>
          Bake {range.first}–{range.last} f
        </Button>
        {options.length > 1 && (
          <>
            of
            <div className="w-44 shrink-0">
              <Select label="Bake of" value={of.value} options={options} onChange={choose} />
            </div>
          </>
        )}
        <span>
          {of.ids.length
            ? `Computes ${of.label} in the background, with what that needs, and keeps it on the disk: the View and renders compute the rest alone.`
            : `Computes all ${frames} frames in the background and keeps them on the disk: the View plays them, and renders take them.`}
          {!of.ids.length && !separate && status && ready > 0 && status.frameMs > 0 && (
            <>
              {' '}
              About <b className="font-semibold text-mist">{spent((status.frameMs / 1000) * frames)}</b>,{' '}
              <b className="font-semibold text-mist">{size((status.historyBytes / ready) * frames)}</b> at most
              {lacksDetail(shot) ? ', without the detail that the View leaves to renders.' : '.'}
            </>
          )}
        </span>
        <span className="flex-1" />
        {bakes.length > 0 && <span className="shrink-0">{size(all)} on the disk</span>}
      </div>
      <div className="flex flex-col gap-2">
        {bakes.map((b) => (
          <BakeRow key={b.id} bake={b} />
        ))}
      </div>
    </div>
  )
}
/** How many of its frames are as the shot is now. */
function usable(b: Bake, until: number | null | undefined): string {
  if (b.old) return 'made by another version of Fox Ember, not used'
  if (until === undefined) return ''
  const good = b.frames.filter((f) => until === null || f < until).length
  if (good === b.frames.length) return good ? 'all as the shot is now' : ''
  return good ? `as the shot is now up to ${Math.max(...b.frames.filter((f) => f < (until ?? 0)))} f` : 'out of date'
}
function BakeRow({ bake: b }: { bake: Bake }) {
  const until = useStudio((s) => s.status?.bakes[b.id])
  const gases = useShot((s) => s.gases.filter((g) => !isFog(g) && (!b.elements.length || b.elements.includes(g.id))).length)
  const act = async (run: () => Promise<unknown>) => {
    try {
      await run()
    } catch (error) {
      toast(messageOf(error), true)
    }
    await reloadBakes().catch(() => {})
  }
  const busy = isBusy(b)
  const apart = useStudio((s) => !!s.status?.apart.includes(b.id))
  const words = `${usable(b, until)}${apart ? ', the View computes the rest' : ''}`
  const isBeside = useStudio((s) => s.second?.bake === b.id)
  const names = useShot((s) => namesOf(s, b.elements).join(', '))
  return (
    <article aria-label={`Bake of ${b.name}`} data-job={b.id} data-state={b.state} className="rounded-md bg-fern/50 px-3 py-2">
      <div className="flex items-center gap-3">
        <b className="font-semibold">
          {b.first}–{b.last} f
        </b>
        {b.elements.length > 0 && (
          <span className="max-w-60 truncate text-mist" title={names}>
            {names || 'elements that are gone'}
          </span>
        )}
        <span className="text-moss">{bakedAt(b)}</span>
        <span className={cx(b.state === 'failed' && 'text-berry', b.state === 'done' && 'text-lichen', busy && 'text-mist')}>
          {b.state === 'running' ? 'baking' : STATES[b.state]}, {b.frames.length} of {b.total} f
          {b.leftS !== null && b.state === 'running' ? `, ${timeLeft(b.leftS)}` : ''}
        </span>
        {b.frames.length > 0 && (
          <span className="text-moss">
            {size(b.bytes)}, {size(b.bytes / b.frames.length)} a frame, took {spent(b.tookS)}
          </span>
        )}
        <span className={words === 'out of date' || b.old ? 'text-amber' : 'text-moss'}>{words}</span>
        {b.message && (
          <span title={b.message} className={cx('truncate', b.state === 'failed' ? 'text-berry' : 'text-moss')}>
            {b.message}
          </span>
        )}
        <span className="flex-1" />
        {b.frames.length > 0 && gases > 0 && (
          <a
            href={`/api/bakes/${b.id}/vdb`}
            className="flex items-center gap-1 underline decoration-twig underline-offset-3"
            title="Its gases as VDB files, one a frame, as a ZIP file"
          >
            <Download size={13} strokeWidth={1.5} /> VDB ZIP
          </a>
        )}
        {b.frames.length > 0 && !b.old && (
          <IconButton
            name={isBeside ? 'Close the bake beside the View' : 'Show this bake beside the View'}
            on={isBeside}
            onClick={() => setStudio({ second: isBeside ? null : { pose: null, bake: b.id } })}
          >
            <Columns2 size={13} strokeWidth={1.5} />
          </IconButton>
        )}
        {busy ? (
          <IconButton name="Stop this bake" disabled={b.state === 'stopping'} onClick={() => void act(() => api.job(b.id, 'stop'))}>
            <Square size={13} strokeWidth={1.5} />
          </IconButton>
        ) : (
          b.state !== 'done' && (
            <IconButton name="Go on with this bake" onClick={() => void act(() => api.job(b.id, 'resume'))}>
              <Play size={13} strokeWidth={1.5} />
            </IconButton>
          )
        )}
        <IconButton name="Delete this bake and its frames" onClick={() => void act(() => api.deleteJob(b.id))}>
          <Trash2 size={13} strokeWidth={1.5} />
        </IconButton>
      </div>
      <div className="mt-1.5 h-[3px] bg-night">
        <div
          className={cx('h-full', busy ? 'bg-ember' : b.state === 'done' ? 'bg-lichen' : 'bg-twig')}
          style={{ width: `${(b.frames.length / b.total) * 100}%` }}
        />
      </div>
      <p className="mt-1 truncate text-moss" title={b.folder}>
        Files: {b.folder}
      </p>
    </article>
  )
}

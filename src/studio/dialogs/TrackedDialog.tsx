'use client'
import { useState } from 'react'
import { shotPose } from '../../acts'
import { findElement, type ObjectDoc, timeOf } from '../../shot'
import { NumberField } from '../fields/NumberField'
import { edit, select, setStudio, shotNow, studio, useStudio } from '../store'
import { toast } from '../toast'
import { distanceOf, planeThrough, scaleTracked } from '../trackedPoints'
import { Button, Select } from '../ui'
import { show } from '../units'
import { Modal } from './Modal'

const close = () => setStudio({ dialog: null })

/** What points that were tracked with the camera are good for: a plane through three of them, and the scale of it all by a known distance. */
export function TrackedDialog() {
  const open = useStudio((s) => s.dialog === 'tracked')
  return (
    <Modal open={open} onClose={close} title="Tracked points" width="w-[620px]">
      {open && <Form />}
    </Modal>
  )
}
/** Anchors first, those beside the selected one before the others. */
function candidates(): ObjectDoc[] {
  const { objects } = shotNow()
  const at = findElement(shotNow(), studio().selected ?? '')?.element as ObjectDoc | undefined
  const group = at?.shape?.kind === 'group' ? at.id : at?.parent
  const rank = (o: ObjectDoc) => (o.shape.kind !== 'anchor' ? 2 : o.parent === (group ?? null) ? 0 : 1)
  return objects
    .filter((o) => o.shape.kind !== 'group')
    .map((o, i) => ({ o, i }))
    .sort((a, b) => rank(a.o) - rank(b.o) || a.i - b.i)
    .map((x) => x.o)
}
function Form() {
  const [list] = useState(candidates)
  const [ids, setIds] = useState(() => [0, 1, 2].map((i) => list[i]?.id ?? ''))
  const shot = shotNow()
  const t = timeOf(shot, studio().playhead)
  const points = ids.map((id) => shot.objects.find((o) => o.id === id))
  const [camera, setCamera] = useState(shot.camera)
  const [a, b, c] = points
  const apart = a && b && a !== b ? distanceOf(a, b, t) : 0
  const [known, setKnown] = useState<number | null>(null)
  const row = 'flex min-h-7 items-center gap-2'
  const word = 'w-24 shrink-0 text-moss'
  if (list.length < 2)
    return (
      <p className="text-moss">
        There are no points yet: bring in a table of those that were tracked, with X, Y and Z of each, or add anchors where you know the
        place.
      </p>
    )
  const makePlane = () => {
    if (!a || !b || !c) return
    const plane = planeThrough(shot, [a, b, c], t, shotPose(shot, t).place)
    if (!plane) {
      toast('These three points lie on a line, so no plane goes through them alone: choose another.', true)
      return
    }
    edit(`a plane through ${a.name}, ${b.name} and ${c.name}`, (s) => void s.objects.push(plane))
    select(plane.id)
    toast(`${plane.name} catches shadows and light, and stops particles; it is not seen itself.`)
    close()
  }
  const scale = () => {
    if (!a || !b || !(apart > 0) || !known) return
    const k = known / apart
    edit(`the scale of what was tracked, × ${show(k)}`, (s) => scaleTracked(s, [a.id, b.id], camera, k))
    toast(`${a.name} and ${b.name} are ${show(known)} m apart now; the points and the camera are ${show(k)} times as large.`)
    close()
  }
  const options = list.map((o) => ({ value: o.id, label: o.name }))
  const pick = (i: number, label: string) => (
    <span className="w-36">
      <Select label={label} value={ids[i]} options={options} onChange={(v) => setIds(ids.map((x, k) => (k === i ? v : x)))} />
    </span>
  )
  return (
    <div className="flex flex-col gap-2">
      <div className={row}>
        <span className={word}>Points</span>
        {pick(0, 'First point')}
        {pick(1, 'Second point')}
        {list.length > 2 && pick(2, 'Third point')}
      </div>
      <div className="flex items-center gap-2">
        <Button main disabled={!a || !b || !c || new Set(ids).size < 3} onClick={makePlane}>
          Plane through the three
        </Button>
        <span className="text-moss">It catches shadows and light for the plate.</span>
      </div>
      <hr className="border-bark" />
      <div className={row}>
        <span className={word}>The first two</span>
        <span className="live w-36">are {show(apart)} m apart</span>
        <span className="text-moss">and really</span>
        <NumberField
          className="w-28"
          label="Known distance"
          value={known ?? apart}
          fps={1}
          spec={{ unit: 'm', min: 0.0001, soft: [0.1, 20] }}
          onChange={setKnown}
        />
      </div>
      <div className={row}>
        <span className={word}>Camera</span>
        <span className="w-36">
          <Select label="Camera" value={camera} options={shot.cameras.map((x) => ({ value: x.id, label: x.name }))} onChange={setCamera} />
        </span>
        <span className="text-moss">that they were tracked with</span>
      </div>
      <div className="flex items-center gap-2">
        <Button disabled={!(apart > 0) || !known || known === apart} onClick={scale}>
          Scale by it
        </Button>
        <span className="text-moss">The points and the camera; in the picture nothing of them moves.</span>
      </div>
    </div>
  )
}

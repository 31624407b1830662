'use client'
import { blurWidth, CAMERA_PARAMS, poseOf, sharpFrom } from '../../acts'
import { type CameraDoc, framesPerSecond, grouped, type MeshShape, type ObjectDoc, type Shot, sampleNumber, sampleVec3 } from '../../shot'
import { matchPlate, plateTiming } from '../plateTiming'
import { edit, useShot } from '../store'
import { show, showXyz } from '../units'
import { Column, Columns, Empty } from './Column'
import { ParamCard } from './ParamCard'
import { rec, useT } from './time'

export function CameraBoard({ camera: c }: { camera: CameraDoc }) {
  const t = useT(c)
  const shot = useShot((s) => s)
  const find = (s: typeof shot) => rec(s.cameras.find((x) => x.id === c.id))
  const shifted = sampleNumber(c.shiftX ?? 0, t) !== 0 || sampleNumber(c.shiftY ?? 0, t) !== 0
  const plate = shot.objects.find((o) => o.id === c.plate)
  const pose = poseOf(shot, c, t)
  const { blur } = pose
  const [near, far] = sharpFrom(pose, 2, shot.size.width)
  const sharp = shot.objects.find((o) => o.id === c.focusAt)?.name
  const aimed = shot.objects.find((o) => o.id === c.aimsAt)?.name
  return (
    <Columns count={5}>
      <Column title="Lens">
        <ParamCard
          id={`${c.id}-lens`}
          title="Lens"
          owner={c.name}
          params={CAMERA_PARAMS}
          names={['lens', 'sensor', 'shiftX', 'shiftY']}
          record={rec(c)}
          find={find}
          sentence={
            <>
              Lens of <b>{show(sampleNumber(c.lens, t))} mm</b> on a sensor {show(c.sensor ?? 36)} mm wide{shifted ? ', shifted' : ''}.
            </>
          }
        />
      </Column>
      <Column title="Sharpness">
        <ParamCard
          id={`${c.id}-sharp`}
          title="Sharpness"
          owner={c.name}
          params={CAMERA_PARAMS}
          names={[
            'aperture',
            ...(blur
              ? [
                  'focusAt',
                  ...(c.focusAt ? [] : ['focus']),
                  'blades',
                  ...(blur.blades > 2 ? ['bladeTurn'] : []),
                  'lensWay',
                  ...(c.lensWay === 'quick' ? [] : ['lensSamples']),
                ]
              : []),
          ]}
          record={rec(c)}
          find={find}
          sentence={
            blur ? (
              <>
                <b>f/{show(sampleNumber(c.aperture ?? 0, t))}</b>, sharp at <b>{sharp ?? `${show(blur.focus)} m`}</b>.
              </>
            ) : (
              <>
                Everything is <b>sharp</b>.
              </>
            )
          }
        />
        <ParamCard
          id={`${c.id}-shutter`}
          title="Shutter"
          owner={c.name}
          params={CAMERA_PARAMS}
          names={['shutter', ...(pose.open ? ['shutterSamples'] : [])]}
          record={rec(c)}
          find={find}
          sentence={
            pose.open ? (
              <>
                Open for <b>{show(sampleNumber(c.shutter ?? 0, t))}°</b>, {show(pose.open.seconds * 1000)} ms.
              </>
            ) : (
              <>
                Sees <b>a moment</b> alone.
              </>
            )
          }
        />
        {blur && (
          <Empty>
            Circles stay below 2 pixels from {show(near)} m {far === Number.POSITIVE_INFINITY ? 'on' : `to ${show(far)} m`}; what is
            endlessly far becomes {show(blurWidth(pose, 1e9, shot.size.width))} pixels wide.
          </Empty>
        )}
      </Column>
      <Column title="Move">
        <ParamCard
          id={`${c.id}-move`}
          title="Place and aim"
          owner={c.name}
          params={CAMERA_PARAMS}
          names={['place', 'aimsAt', 'aim', 'roll']}
          record={rec(c)}
          find={find}
          sentence={
            <>
              Stands at <b>{showXyz(sampleVec3(c.place, t))}</b> m and looks at <b>{aimed ?? showXyz(sampleVec3(c.aim, t))}</b>
              {!aimed && ' m'}.
            </>
          }
        />
      </Column>
      <Column title="Behind">
        <ParamCard
          id={`${c.id}-plate`}
          title="Plate"
          owner={c.name}
          params={CAMERA_PARAMS}
          names={['plate', ...(c.plate ? ['fit', 'plateBright', 'plateContrast', 'plateSaturation', 'plateTint'] : [])]}
          record={rec(c)}
          find={find}
          sentence={
            c.plate ? (
              <>
                <b>{plate?.name}</b> lies behind everything.
              </>
            ) : (
              <>
                <b>No plate</b> behind.
              </>
            )
          }
        />
        {plate?.shape.kind === 'mesh' && <PlateTiming object={plate} shape={plate.shape} shot={shot} />}
        {c.plate && <Empty>An object whose material only catches darkens the plate by its shadows.</Empty>}
      </Column>
      <Column title="Shot">
        {shot.camera === c.id ? (
          <p className="px-1 text-moss">The shot is seen and rendered through this camera.</p>
        ) : (
          <button
            type="button"
            className="rounded-md border border-twig px-2 py-1"
            onClick={() => edit(`shot through ${c.name}`, (s) => void (s.camera = c.id))}
          >
            Use for the shot
          </button>
        )}
      </Column>
    </Columns>
  )
}
/** Whether the pictures of a plate and the frames of the shot go together, and a way to make them. */
function PlateTiming({ object, shape, shot }: { object: ObjectDoc; shape: MeshShape; shot: Shot }) {
  const { pictures, begins, ends, odd, short, matched } = plateTiming(shape, shot)
  if (pictures < 2) return null
  return (
    <div className="flex flex-col gap-1 px-1">
      <p className="text-moss">
        {grouped(pictures)} pictures, {show(shape.rate)} a second, from frame {show(begins)} to {ends}.
      </p>
      {odd && (
        <p role="status" className="text-amber">
          The shot has {show(framesPerSecond(shot))} frames a second: pictures are left out or shown twice.
        </p>
      )}
      {short && (
        <p role="status" className="text-amber">
          From frame {ends + 1} on its last picture stands still.
        </p>
      )}
      {!matched && (
        <button
          type="button"
          className="w-fit rounded-md border border-twig px-2 py-1"
          onClick={() => edit(`the shot as long and as fast as ${object.name}`, (x) => matchPlate(x, object.id))}
        >
          Shot as long and as fast
        </button>
      )}
    </div>
  )
}

'use client'
import { memo, useMemo } from 'react'
import { OBJECT_PARAMS } from '../../acts'
import { isKeyed, type ObjectDoc, sampleVec3 } from '../../shot'
import { setParent } from '../arranging'
import { useShot } from '../store'
import { Select } from '../ui'
import { show } from '../units'
import { Column } from './Column'
import { finder, xyz } from './objectOf'
import { ParamCard } from './ParamCard'
import { Portrait } from './Portrait'
import { sameObject } from './same'
import { rec, useT } from './time'

export const PlaceColumn = memo(
  function PlaceColumn({ object: o }: { object: ObjectDoc }) {
    const t = useT(o)
    const find = finder(o.id)
    const parent = useShot((s) => s.objects.find((x) => x.id === o.parent)?.name)
    return (
      <Column
        title="Place"
        side="in the shot"
        picture={
          <Portrait object={o} view="place">
            from above
            {sampleVec3(o.rotate, t)[1] !== 0 && (
              <>
                <br />
                rotated {show(sampleVec3(o.rotate, t)[1])}°
              </>
            )}
          </Portrait>
        }
      >
        <div className="flex flex-col gap-1">
          <ParamCard
            id={`${o.id}-place`}
            title="Stands here"
            owner={o.name}
            params={OBJECT_PARAMS}
            names={['place', 'rotate', 'scale', 'faces']}
            record={rec(o)}
            find={(s) => rec(find(s))}
            sentence={
              <>
                Stands at <b>{xyz(sampleVec3(o.place, t))}</b> m
                {parent && (
                  <>
                    {' '}
                    from <b>{parent}</b>
                  </>
                )}
                , rotated <b>{xyz(sampleVec3(o.rotate, t))}</b>°, scaled <b>{xyz(sampleVec3(o.scale, t))}</b>.
              </>
            }
          />
          <div className="flex items-center gap-2 px-2 text-moss">
            <span className="shrink-0">Parent</span>
            <ParentSelect id={o.id} parent={o.parent} />
          </div>
          <ParamCard
            id={`${o.id}-seen`}
            title="Seen"
            owner={o.name}
            params={OBJECT_PARAMS}
            names={['seen']}
            record={rec(o)}
            find={(s) => rec(find(s))}
            sentence={
              isKeyed(o.seen) ? (
                <>
                  Seen <b>by keys</b>.
                </>
              ) : o.seen ? (
                <>
                  The camera <b>sees</b> it.
                </>
              ) : (
                <>
                  The camera <b>does not see</b> it; its roles go on.
                </>
              )
            }
          />
        </div>
      </Column>
    )
  },
  sameObject('name', 'shape', 'place', 'rotate', 'scale', 'parent', 'seen'),
)
/** Only the names of the others matter here; they come as one text, so that nothing else renders it again. */
function ParentSelect({ id, parent }: { id: string; parent: string | null }) {
  const names = useShot((s) =>
    s.objects
      .filter((x) => x.id !== id)
      .map((x) => `${x.id}\n${x.name}`)
      .join('\n\n'),
  )
  const options = useMemo(
    () => [
      { value: '', label: 'nothing' },
      ...(names ? names.split('\n\n') : []).map((n) => ({ value: n.slice(0, n.indexOf('\n')), label: n.slice(n.indexOf('\n') + 1) })),
    ],
    [names],
  )
  return <Select label="Parent" value={parent ?? ''} options={options} onChange={(to) => setParent(id, to || null)} />
}

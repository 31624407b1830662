'use client'
import { MASK_PARAMS } from '../../acts'
import { type MaskDoc, sampleNumber } from '../../shot'
import { plateOf } from '../../stage/plate'
import { useShot } from '../store'
import { show } from '../units'
import { Column, Columns, Empty } from './Column'
import { ParamCard } from './ParamCard'
import { rec, useT } from './time'

/** What of the picture lies in front of what. */
export function MaskBoard({ mask: m }: { mask: MaskDoc }) {
  const t = useT(m)
  const shot = useShot((s) => s)
  const find = (s: typeof shot) => rec(s.masks.find((x) => x.id === m.id))
  const follows = shot.objects.find((o) => o.id === m.follows)?.name
  const camera = shot.cameras.find((c) => c.id === m.camera)
  const card = { owner: m.name, params: MASK_PARAMS, record: rec(m), find }
  return (
    <Columns count={3}>
      <Column title="Outline">
        <ParamCard
          {...card}
          id={`${m.id}-outline`}
          title="Outline"
          names={['outline', 'feather', 'outside']}
          sentence={
            <>
              Its edge fades over <b>{show(sampleNumber(m.feather, t))} %</b> of the height
              {m.outside && (
                <>
                  ; <b>all but</b> what it goes around
                </>
              )}
              .
            </>
          }
        />
      </Column>
      <Column title="In front">
        <ParamCard
          {...card}
          id={`${m.id}-front`}
          title="In front"
          names={['depth', 'covers']}
          sentence={
            <>
              Hides{' '}
              {sampleNumber(m.covers, t) < 100 && (
                <>
                  <b>{show(sampleNumber(m.covers, t))} %</b> of{' '}
                </>
              )}
              what is farther than{' '}
              <b>{m.depth === null ? (follows ?? 'what it follows, which is not chosen yet') : `${show(sampleNumber(m.depth, t))} m`}</b>.
            </>
          }
        />
        {m.depth === null && !follows && <Empty>Choose what it follows, or give it a depth: until then it hides nothing.</Empty>}
        {!plateOf(shot) && <Empty>There is no plate: within it, what lies behind everything is seen.</Empty>}
      </Column>
      <Column title="Goes along">
        <ParamCard
          {...card}
          id={`${m.id}-along`}
          title="Goes along"
          names={['follows', ...(m.follows ? ['since'] : []), 'camera']}
          sentence={
            follows ? (
              <>
                Goes along with <b>{follows}</b>, as it was drawn at <b>{show(m.since)} s</b>.
              </>
            ) : (
              <>Lies where it was drawn in the picture{camera ? ` of ${camera.name}` : ''}.</>
            )
          }
        />
        {camera && camera.id !== shot.camera && <Empty>The shot is seen through another camera now, so it hides nothing.</Empty>}
      </Column>
    </Columns>
  )
}

'use client'
import { aroundOf, LIGHT_PARAMS, throwsShadow } from '../../acts'
import { type LightDoc, type Shot, sampleColour, sampleNumber, sampleVec3, toHex, type Vec3 } from '../../shot'
import { chooseFiles } from '../commands'
import { useShot } from '../store'
import { show, showXyz } from '../units'
import { Column, Columns, Empty } from './Column'
import { LightSharesColumn } from './LightShares'
import { ParamCard } from './ParamCard'
import { rec, useT } from './time'

const find = (id: string) => (s: { lights: LightDoc[] }) => rec(s.lights.find((x) => x.id === id))
const nameOf = (shot: Shot, id: string) => [...shot.objects, ...shot.systems].find((x) => x.id === id)?.name ?? 'nothing'

export function LightBoard({ light: l }: { light: LightDoc }) {
  const t = useT(l)
  const shot = useShot((s) => s)
  if (l.kind === 'around') return <AroundBoard light={l} shot={shot} t={t} />
  const follows = l.follows ? nameOf(shot, l.follows) : null
  const system = !!l.follows && shot.systems.some((s) => s.id === l.follows)
  const from = follows ? ` m from ${follows}` : ' m'
  return (
    <Columns count={3}>
      <Column title="Light">
        <ParamCard
          id={`${l.id}-light`}
          title="Light"
          owner={l.name}
          params={LIGHT_PARAMS}
          names={[
            'kind',
            'colour',
            'strength',
            ...(l.kind === 'spot' ? ['angle', 'edge'] : l.kind === 'area' ? ['round', 'width', 'height'] : []),
            'onGas',
            'shadow',
            ...(throwsShadow(l) && l.kind !== 'area' ? ['size'] : []),
          ]}
          record={rec(l)}
          find={find(l.id)}
          sentence={
            <>
              {l.kind === 'area' ? 'An' : 'A'} <b>{l.kind}</b> of strength <b>{show(sampleNumber(l.strength, t))}</b>, coloured{' '}
              <b>{toHex(sampleColour(l.colour, t))}</b>
              {throwsShadow(l) ? ', casting shadows' : ''}.
            </>
          }
        />
      </Column>
      <Column title="Place">
        <ParamCard
          id={`${l.id}-place`}
          title="Place and aim"
          owner={l.name}
          params={LIGHT_PARAMS}
          names={['follows', ...(system ? ['which'] : []), 'place', ...(l.kind === 'point' ? [] : ['aim'])]}
          record={rec(l)}
          find={find(l.id)}
          sentence={
            <>
              Hangs at <b>{showXyz(sampleVec3(l.place, t))}</b>
              {from}
              {l.kind !== 'point' && (
                <>
                  {' '}
                  and looks at <b>{showXyz(sampleVec3(l.aim, t))}</b>
                  {from}
                </>
              )}
              .
            </>
          }
        />
        {system && <Empty>Where {follows} has nobody alive, it gives no light.</Empty>}
      </Column>
      <LightSharesColumn light={l} shot={shot} />
    </Columns>
  )
}
/** Light from a picture on all sides: what it gives, and what is seen of it. */
function AroundBoard({ light: l, shot, t }: { light: LightDoc; shot: Shot; t: number }) {
  const name = shot.assets.find((a) => a.hash === l.asset)?.name
  const other = aroundOf(shot)
  return (
    <Columns count={2}>
      <Column title="Light">
        <ParamCard
          id={`${l.id}-light`}
          title="Light"
          owner={l.name}
          params={LIGHT_PARAMS}
          names={['kind', 'strength', 'turn', 'seen', ...(l.seen === false ? [] : ['brightness', 'blur'])]}
          record={rec(l)}
          find={find(l.id)}
          sentence={
            <>
              From <b>all around</b>, <b>{show(sampleNumber(l.strength, t))} ×</b> its picture, turned by{' '}
              <b>{show(sampleNumber(l.turn ?? 0, t))}°</b>
              {l.seen === false ? ', not seen' : sampleNumber(l.blur ?? 0, t) > 0 ? ', seen blurred' : ', seen'}.
            </>
          }
        />
      </Column>
      <Column title="Picture of light">
        {name ? (
          <div className="flex flex-col gap-1 px-1">
            <span className="truncate font-semibold" title={name}>
              {name}
            </span>
            <Given label="From above" v={l.above} />
            <Given label="From below" v={l.below} />
          </div>
        ) : (
          <Empty>
            No picture yet: until there is one, the even light or the sky lights the shot. Bring an HDR or EXR that is twice as wide as
            high.
          </Empty>
        )}
        <button type="button" className="mx-1 mt-1 w-fit rounded-md border border-twig px-2 py-1" onClick={chooseFiles}>
          {name ? 'Another picture …' : 'Choose a picture …'}
        </button>
        {name && !l.muted && other && other.id !== l.id && <Empty>{other.name} is all around already; only the first counts.</Empty>}
      </Column>
    </Columns>
  )
}
/** Radiance on the mean, as a swatch and three numbers. */
function Given({ label, v = [0, 0, 0] }: { label: string; v?: Vec3 }) {
  return (
    <span className="flex items-center gap-2 text-moss">
      <span className="w-[76px]">{label}</span>
      <span className="size-4 shrink-0 rounded-sm border border-twig" style={{ background: toHex(v.map((x) => Math.min(1, x)) as Vec3) }} />
      <span className="live">{v.map((x) => show(x)).join(', ')}</span>
    </span>
  )
}

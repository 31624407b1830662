'use client'
import { memo, useEffect } from 'react'
import { type Act, actOf, dyesOf, GAS_PARAMS, isFog, isStored } from '../../acts'
import type { GasFacts } from '../../protocol'
import type { ActDoc, GasDoc, Shot } from '../../shot'
import { grouped } from '../../shot'
import { costOf, paceHere, rememberPace } from '../gasCost'
import { GasStrip, useGasFacts } from '../life/GasStrip'
import { edit, useShot, useStudio } from '../store'
import { Select } from '../ui'
import { show } from '../units'
import { AddAct } from './AddAct'
import { Column, Columns, Empty } from './Column'
import { ParamCard } from './ParamCard'
import { cards, ids } from './SystemColumns'
import { sameGas } from './same'
import { rec } from './time'

const finder = (id: string) => (s: Shot) => s.gases.find((g) => g.id === id)
type List = 'feeds' | 'motion' | 'burning' | 'look'

/** One list of acts of a gas. */
const ActsColumn = memo(
  function ActsColumn({ gas, list, title, add, sorts, fits, empty }: ColumnProps) {
    const find = finder(gas.id)
    const into = (act: ActDoc) => edit(`a new ${actOf(act.kind).title}`, (s) => void find(s)?.[list].push(act))
    return (
      <Column title={title} below={ids(gas[list])} tools={<AddAct name={add} sorts={sorts} fits={fits} onAdd={into} />}>
        <div className="flex flex-col gap-1">
          {cards(gas[list], (s) => find(s)?.[list])}
          {!gas[list].length && <Empty>{empty}</Empty>}
        </div>
      </Column>
    )
  },
  sameGas('feeds', 'motion', 'burning', 'look'),
)
interface ColumnProps {
  gas: GasDoc
  list: List
  title: string
  add: string
  sorts: Act['sort'][]
  fits?: (a: Act) => boolean
  empty: string
}
const movesGas = (a: Act): boolean => (a.sort === 'force' ? !!a.movesGas : a.sort === 'flow' && !a.burns)
const burns = (a: Act): boolean => a.sort === 'flow' && !!a.burns

/** How large it may be, how fine, and through which sides it leaves. */
const BoundsColumn = memo(
  function BoundsColumn({ gas, facts }: { gas: GasDoc; facts: GasFacts | null }) {
    const find = finder(gas.id)
    const frames = useShot((s) => s.range.last - s.range.first + 1)
    const objects = useShot((s) => s.objects)
    const { detail, detailIn } = gas
    useEffect(() => {
      if (facts) rememberPace({ detail, detailIn }, facts)
    }, [facts, detail, detailIn])
    const pace = paceHere()
    const cost = costOf(gas, pace.ms, dyesOf(gas).length)
    const most = cost.voxels
    const sides = (['Left', 'Right', 'Below', 'Above', 'Back', 'Front'] as const).filter((k) => !gas[`open${k}`])
    return (
      <Column title="Bounds and detail">
        <div className="flex flex-col gap-1">
          <ParamCard
            id={`${gas.id}-bounds`}
            title="Bounds"
            owner={gas.name}
            params={GAS_PARAMS}
            names={['voxel', 'place', 'size', 'openLeft', 'openRight', 'openBelow', 'openAbove', 'openBack', 'openFront']}
            record={rec(gas)}
            find={(s) => rec(find(s))}
            sentence={
              <>
                Grows with it, at most <b>{gas.size.map((x) => show(x)).join(' × ')} m</b>, voxels of <b>{show(gas.voxel * 1000)} mm</b>
                {sides.length ? <>, closed {sides.map((x) => x.toLowerCase()).join(', ')}</> : ''}.
              </>
            }
          />
          <ParamCard
            id={`${gas.id}-time`}
            title="Steps and time"
            owner={gas.name}
            params={GAS_PARAMS}
            names={['steps', 'stepping', 'timeScale']}
            record={rec(gas)}
            find={(s) => rec(find(s))}
            sentence={
              <>
                {gas.stepping === 'fixed' ? 'Always' : 'At most'} <b>{gas.steps}</b> steps of its own in a substep.
              </>
            }
          />
          <ParamCard
            id={`${gas.id}-detail`}
            title="Detail"
            owner={gas.name}
            params={GAS_PARAMS}
            names={gas.detail > 1 ? ['detail', 'detailIn', 'eddies'] : ['detail']}
            record={rec(gas)}
            find={(s) => rec(find(s))}
            sentence={
              gas.detail > 1 ? (
                <>
                  Smoke and flames <b>{gas.detail} ×</b> finer {gas.detailIn === 'view' ? 'in the View too' : 'in renders'}.
                </>
              ) : (
                <>No detail below its voxels.</>
              )
            }
          />
          <div className="flex items-center gap-2 px-2 text-moss">
            <span className="shrink-0">Rides on</span>
            <Select
              label="Bounds ride on"
              value={gas.rides ?? ''}
              options={[{ value: '', label: 'nothing' }, ...objects.map((o) => ({ value: o.id, label: o.name }))]}
              onChange={(v) =>
                edit(`bounds of ${gas.name}`, (s) => {
                  const x = find(s)
                  if (x) x.rides = v || null
                })
              }
            />
          </div>
          <p className="px-2 text-moss">
            <b className="font-semibold text-mist">{cost.cells.join(' × ')}</b> voxels at most, {short(most)}. Full, it needs{' '}
            {megabytes(cost.workingBytes)}
            {/* Once there are frames, they say better how long it takes. */}
            {!facts &&
              `, about ${took(cost.frameMs / 1000)} a frame, ${took((cost.frameMs / 1000) * frames)} in all${pace.measured ? ', as measured here' : ''}`}
            .
          </p>
          {facts && (
            <p className="live px-2 text-moss">
              <b className="font-semibold text-mist">{short(facts.voxels)}</b> in use in this frame,{' '}
              {Math.round((100 * facts.voxels) / most)} %, {megabytes(facts.bytes)} kept. It took {took(facts.ms / 1000)}; all {frames}{' '}
              frames about {took((facts.ms / 1000) * frames)}, {megabytes(facts.bytes * frames)}.
            </p>
          )}
        </div>
      </Column>
    )
  },
  sameGas(
    'name',
    'voxel',
    'place',
    'size',
    'openLeft',
    'openRight',
    'openBelow',
    'openAbove',
    'openBack',
    'openFront',
    'steps',
    'stepping',
    'timeScale',
    'detail',
    'detailIn',
    'eddies',
    'rides',
  ),
)
/** Of a gas that files say: how fine it is taken. */
const VoxelsColumn = memo(
  function VoxelsColumn({ gas, facts }: { gas: GasDoc; facts: GasFacts | null }) {
    const find = finder(gas.id)
    return (
      <Column title="Voxels">
        <div className="flex flex-col gap-1">
          <ParamCard
            id={`${gas.id}-voxels`}
            title="Voxels"
            owner={gas.name}
            params={GAS_PARAMS}
            names={['voxel']}
            record={rec(gas)}
            find={(s) => rec(find(s))}
            sentence={
              <>
                All copies are taken into voxels of <b>{show(gas.voxel * 1000)} mm</b>.
              </>
            }
          />
          {facts && (
            <p className="live px-2 text-moss">
              <b className="font-semibold text-mist">{short(facts.voxels)}</b> in use in this frame, {megabytes(facts.bytes)}.
            </p>
          )}
        </div>
      </Column>
    )
  },
  sameGas('name', 'voxel'),
)
const megabytes = (bytes: number): string =>
  bytes < 1e9 ? `${show(Number((bytes / 1e6).toPrecision(2)))} MB` : `${show(Number((bytes / 1e9).toPrecision(2)))} GB`
const took = (s: number): string => (s < 90 ? `${show(Number(s.toPrecision(2)))} s` : `${show(Number((s / 60).toPrecision(2)))} min`)
/** “1.2 million”, “340,000”. */
const short = (n: number): string => (n >= 1e6 ? `${show(Number((n / 1e6).toPrecision(2)))} million` : grouped(n))

/** A gas: what feeds it, what moves it, how it burns, how large it is, how it looks. */
export function GasBoard({ gas }: { gas: GasDoc }) {
  const beside = useStudio((s) => s.beside)
  const facts = useGasFacts(gas)
  const fog = isFog(gas)
  const stored = isStored(gas)
  const sources = (
    <ActsColumn
      {...{ gas, list: 'feeds', title: fog ? 'Fog' : 'Sources', add: 'Add a source', sorts: ['feed'] }}
      empty="Nothing feeds it. Add an object or particles with +."
    />
  )
  const look = (
    <ActsColumn
      {...{ gas, list: 'look', title: 'Look', add: 'Add to the look', sorts: ['gasLook'] }}
      empty="It is not seen. Add smoke or a glow with +."
    />
  )
  // A fog is its one card; what files hold does not flow.
  const columns = fog ? (
    <Columns count={2}>{sources}</Columns>
  ) : stored ? (
    <Columns count={3}>
      {sources}
      <VoxelsColumn gas={gas} facts={facts} />
      {look}
    </Columns>
  ) : (
    <Columns count={5}>
      {sources}
      <ActsColumn
        {...{ gas, list: 'motion', title: 'Motion', add: 'Add to the motion', sorts: ['flow', 'force'], fits: movesGas }}
        empty="It only spreads. Let it rise, curl and fade with +."
      />
      <ActsColumn
        {...{ gas, list: 'burning', title: 'Burning', add: 'Add burning', sorts: ['flow'], fits: burns }}
        empty="Nothing burns. With + fuel becomes flame."
      />
      <BoundsColumn gas={gas} facts={facts} />
      {look}
    </Columns>
  )
  return (
    <div className={beside ? 'min-h-0 flex-1 overflow-y-auto' : 'flex min-h-0 flex-1 flex-col'}>
      {!fog && <GasStrip gas={gas} facts={facts} />}
      {columns}
    </div>
  )
}

'use client'
import { X } from 'lucide-react'
import { actOf, actOfSort, LAYER_PARAMS, layerOf, readerOf } from '../../acts'
import type { Scope } from '../../protocol'
import { type ElementDoc, type LayerDoc, type Shot, sampleNumber } from '../../shot'
import { passing } from '../../stage/finish/scope'
import { putIntoLayer } from '../layers'
import { edit, useShot } from '../store'
import { IconButton, Select } from '../ui'
import { show } from '../units'
import { AddAct } from './AddAct'
import { ActCard } from './Card'
import { Column, Columns, Empty } from './Column'
import { ParamCard } from './ParamCard'
import { percent, ScopesColumn, useScope } from './Scopes'
import { rec, useT } from './time'

const NONE = '—choose—'
/** What can be drawn in a layer. */
const drawable = (shot: Shot): (ElementDoc & { layer?: string | null })[] => [
  ...shot.objects.filter((o) => o.shape.kind !== 'anchor' && o.shape.kind !== 'group'),
  ...shot.systems,
  ...shot.gases,
  ...shot.glows,
]
/** The picture with its finishes, or a layer that goes over it. */
export function LayerBoard({ layer }: { layer: LayerDoc }) {
  const shot = useShot((s) => s)
  const isPicture = shot.layers[0].id === layer.id
  const scope = useScope(isPicture)
  const members = drawable(shot).filter((e) => layerOf(shot, e) === layer.id)
  return (
    <Columns count={3}>
      {isPicture ? (
        <Column title="Elements" side={`${members.length} in the picture`}>
          <p className="px-1 text-moss">
            {shot.layers.length > 1
              ? `Everything that is in no layer of its own: objects first, then gases and systems in the order of the list. ${shot.layers.length - 1 === 1 ? 'One layer goes' : `${shot.layers.length - 1} layers go`} over it, in the order of the list.`
              : 'Everything of the shot is in the picture: objects first, then gases and systems in the order of the list. Add a layer with + to blend and finish some of them apart.'}
          </p>
        </Column>
      ) : (
        <Members shot={shot} layer={layer} members={members} />
      )}
      <FinishColumn shot={shot} layer={layer} scope={scope} />
      {isPicture ? <ScopesColumn scope={scope} /> : <OverColumn shot={shot} layer={layer} />}
    </Columns>
  )
}
function Members({ shot, layer, members }: { shot: Shot; layer: LayerDoc; members: ElementDoc[] }) {
  const others = drawable(shot).filter((e) => !members.some((m) => m.id === e.id))
  return (
    <Column title="Elements" side={`${members.length}`}>
      <div className="flex flex-col gap-1">
        {members.map((e) => (
          <div key={e.id} className="flex h-6 items-center gap-2 rounded-md bg-fern pl-2">
            <span className="min-w-0 flex-1 truncate" title={e.name}>
              {e.name}
            </span>
            <IconButton name={`${e.name} back into the picture`} onClick={() => putIntoLayer(e.id, null)}>
              <X size={13} strokeWidth={1.5} />
            </IconButton>
          </div>
        ))}
        {!members.length && <Empty>Nothing is in this layer yet: choose what it draws.</Empty>}
        {others.length > 0 && (
          <Select
            label="Add to the layer"
            value={NONE}
            options={[{ value: NONE, label: 'add …' }, ...others.map((e) => ({ value: e.id, label: e.name }))]}
            onChange={(v) => v !== NONE && putIntoLayer(v, layer.id)}
          />
        )}
      </div>
    </Column>
  )
}
/** Finishes that work on what is bright say how much of the picture that is. */
function FinishColumn({ shot, layer, scope }: { shot: Shot; layer: LayerDoc; scope: Scope | null }) {
  const t = useT(layer, shot.systems, shot.objects)
  const find = (s: Shot) => s.layers.find((l) => l.id === layer.id)?.finish ?? []
  return (
    <Column
      title="Finish"
      side={layer.finish.length > 1 ? 'from the top down' : undefined}
      tools={
        <AddAct
          name="Add a finish"
          sorts={['finish']}
          onAdd={(act) => edit(`a new ${actOf(act.kind).title}`, (s) => void find(s).push(act))}
        />
      }
    >
      <div className="flex flex-col gap-1">
        {layer.finish.map((a) => {
          const from = !a.muted ? actOfSort(a.kind, 'finish').shines?.(readerOf(a), t) : undefined
          const pass = from !== undefined && scope ? passing(scope, from) : null
          return (
            <div key={a.id}>
              <ActCard act={a} list={find} />
              {pass && pass.share === 0 && (
                <p role="status" className="mt-1 rounded-md border border-amber px-2 py-1 text-amber">
                  Nothing is bright enough for this {actOf(a.kind).title.toLowerCase()}: it sets in at {show(from ?? 0)}, and the brightest
                  thing here is {show(pass.brightest)}.
                </p>
              )}
              {pass && pass.share > 0 && <p className="px-2 text-moss">{percent(pass.share)} of the picture is brighter than that.</p>}
            </div>
          )
        })}
        {!layer.finish.length && <Empty>No finish. Add bloom, a grade or grain with +.</Empty>}
      </div>
    </Column>
  )
}
/** What each way of cutting asks for. */
const CUT_BY: Record<LayerDoc['cut'], string[]> = {
  none: [],
  outline: ['cutMask', 'cutOutside'],
  object: ['cutObject', 'cutOutside', 'cutFeather'],
  layer: ['cutLayer', 'cutOutside', 'cutFeather'],
}
function OverColumn({ shot, layer: l }: { shot: Shot; layer: LayerDoc }) {
  const t = useT(l)
  const find = (s: Shot) => rec(s.layers.find((x) => x.id === l.id))
  const card = { owner: l.name, params: LAYER_PARAMS, record: rec(l), find }
  const name = (id: string | null, list: readonly { id: string; name: string }[]) => list.find((e) => e.id === id)?.name
  const lies = name(l.lies, [...shot.objects, ...shot.systems, ...shot.lights])
  const cut =
    l.cut === 'outline' ? name(l.cutMask, shot.masks) : l.cut === 'object' ? name(l.cutObject, shot.objects) : name(l.cutLayer, shot.layers)
  const blend = LAYER_PARAMS.blend
  const words = blend.type === 'choice' ? blend.options.find((o) => o.value === l.blend)?.label.toLowerCase() : ''
  return (
    <Column title="Over what is behind">
      <div className="flex flex-col gap-1">
        <ParamCard
          {...card}
          id={`${l.id}-blend`}
          title="Blend"
          names={['blend', 'opacity']}
          sentence={
            <>
              It <b>{words}</b>, <b>{show(sampleNumber(l.opacity, t))} %</b> of it.
            </>
          }
        />
        <ParamCard
          {...card}
          id={`${l.id}-depth`}
          title="Depth"
          names={['lies']}
          sentence={
            lies ? (
              <>
                At the depth of <b>{lies}</b>: what is nearer goes over it.
              </>
            ) : (
              <>
                <b>Over everything</b> before it.
              </>
            )
          }
        />
        <ParamCard
          {...card}
          id={`${l.id}-cut`}
          title="Cut"
          names={['cut', ...CUT_BY[l.cut]]}
          sentence={
            l.cut === 'none' ? (
              <>
                <b>Nothing</b> cuts it.
              </>
            ) : (
              <>
                Seen {l.cutOutside ? 'outside' : 'within'} <b>{cut ?? 'what is not chosen yet'}</b>.
              </>
            )
          }
        />
        {l.cut !== 'none' && !cut && <Empty>Choose what cuts it: until then all of it is seen.</Empty>}
      </div>
    </Column>
  )
}

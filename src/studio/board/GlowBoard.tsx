'use client'
import { GLOW_PARAMS, isLine } from '../../acts'
import { type GlowDoc, sampleColour, sampleNumber, sampleVec3, toHex } from '../../shot'
import { useShot } from '../store'
import { show, showXyz } from '../units'
import { Column, Columns, Empty } from './Column'
import { ParamCard } from './ParamCard'
import { rec, useT } from './time'

/** A disc with rays, or a line, that shines without throwing light. */
export function GlowBoard({ glow: g }: { glow: GlowDoc }) {
  const t = useT(g)
  const shot = useShot((s) => s)
  const find = (s: typeof shot) => rec(s.glows.find((x) => x.id === g.id))
  const card = { owner: g.name, params: GLOW_PARAMS, record: rec(g), find }
  const line = g.kind === 'line'
  const stuck = [...shot.objects, ...shot.systems, ...shot.lights].find((x) => x.id === (line ? g.along : g.follows))
  const system = shot.systems.some((s) => s.id === g.follows)
  const n = (v: GlowDoc['size']) => show(sampleNumber(v, t))
  const path = shot.objects.find((o) => o.id === g.along)
  return (
    <Columns count={4}>
      <Column title="Glow">
        <ParamCard
          {...card}
          id={`${g.id}-glow`}
          title="Glow"
          names={['kind', 'colour', 'strength', ...(line ? ['width', 'spread'] : ['size', 'core']), 'halo']}
          sentence={
            line ? (
              <>
                A <b>line</b>, <b>{n(g.width)} m</b> wide, in <b>{toHex(sampleColour(g.colour, t))}</b>, <b>{n(g.strength)} ×</b> bright.
              </>
            ) : (
              <>
                A <b>disc</b> of <b>{n(g.size)} m</b> in <b>{toHex(sampleColour(g.colour, t))}</b>, <b>{n(g.strength)} ×</b> bright.
              </>
            )
          }
        />
      </Column>
      <Column title="Place">
        <ParamCard
          {...card}
          id={`${g.id}-place`}
          title="Place"
          names={line ? ['along'] : ['follows', ...(system ? ['which'] : []), 'place']}
          sentence={
            line ? (
              <>
                Along <b>{stuck?.name ?? 'nothing yet'}</b>.
              </>
            ) : stuck ? (
              <>
                Stuck to <b>{stuck.name}</b>.
              </>
            ) : (
              <>
                At <b>{showXyz(sampleVec3(g.place, t))}</b> m.
              </>
            )
          }
        />
        {line && !(path && isLine(path.shape)) && <Empty>Draw a path, add one with +, and choose it here.</Empty>}
      </Column>
      <Column title="Rays">
        {line ? (
          <Empty>A line has none.</Empty>
        ) : (
          <ParamCard
            {...card}
            id={`${g.id}-rays`}
            title="Rays"
            names={['rays', ...(g.rays ? ['rayLength', 'rayWidth', 'rayTurn', 'uneven'] : [])]}
            sentence={
              g.rays ? (
                <>
                  <b>{g.rays} rays</b> of <b>{n(g.rayLength)} %</b> of its size.
                </>
              ) : (
                <>
                  <b>No rays</b>.
                </>
              )
            }
          />
        )}
      </Column>
      <Column title="Seen">
        <ParamCard
          {...card}
          id={`${g.id}-seen`}
          title="Seen"
          names={['hidden', 'flicker', ...(sampleNumber(g.flicker, t) > 0 || typeof g.flicker !== 'number' ? ['flickerRate'] : [])]}
          sentence={
            <>
              <b>{n(g.hidden)} %</b> hidden by what lies in front
              {sampleNumber(g.flicker, t) > 0 && (
                <>
                  , flickers by <b>{n(g.flicker)} %</b>
                </>
              )}
              .
            </>
          }
        />
      </Column>
    </Columns>
  )
}

'use client'
import { gasMiddle } from '../../acts'
import { identity } from '../../engine'
import type { GasDoc, Shot, Vec3 } from '../../shot'
import { onScreen, type Screen } from './MoveHandle'
import { linesOf, pathOf } from './outlines'

/** The most room that a gas may take up, and how many voxels that is. */
export function GasBounds({ shot, gas, t, screen }: { shot: Shot; gas: GasDoc; t: number; screen: Screen }) {
  const place = gasMiddle(shot, gas, t)
  const half = gas.size.map((x) => x / 2) as Vec3
  const lines = linesOf({ shape: 'box', middle: place, half }, identity())
  const corner = onScreen(screen, [place[0] - half[0], place[1] + half[1], place[2] + half[2]])
  const cells = gas.size.map((x) => Math.ceil(x / gas.voxel))
  return (
    <g aria-label={`Bounds of ${gas.name}`}>
      {lines.map((points, i) => {
        const d = pathOf(screen, points)
        return (
          <g key={i}>
            <path d={d} fill="none" stroke="black" strokeOpacity={0.4} strokeWidth={3} />
            <path d={d} fill="none" className="stroke-mist" strokeOpacity={0.55} strokeDasharray="4 4" />
          </g>
        )
      })}
      {corner && (
        <text x={corner.x + 4} y={corner.y - 6} className="fill-mist text-caption">
          {cells.join(' × ')}
        </text>
      )}
    </g>
  )
}

import { Pencil, Plus, Trash2 } from 'lucide-react'
import { MOST_POINTS, type Vec3 } from '../../shot'
import { setStudio, useStudio } from '../store'
import { cx, IconButton, Tip } from '../ui'
import type { Bind } from './bind'
import { useFps } from './fps'
import { NumberField } from './NumberField'

/** The points of a path: drawing in the View, and the picked one as exact numbers. */
export function PointsField({ bind: b }: { bind: Bind }) {
  const fps = useFps()
  const object = useStudio((s) => s.selected)
  const drawing = useStudio((s) => s.drawing)
  const picked = useStudio((s) => s.point)
  const points = b.value as Vec3[]
  const at = picked !== null && points[picked] ? picked : null
  const draw = (restart: boolean) =>
    object && setStudio({ drawing: drawing?.restart === restart ? null : { object, restart }, point: null })
  const write = (next: Vec3[], label: string, gesture: string | null = null) => b.write(label, next, gesture)
  const tool = (restart: boolean, name: string, help: string) => (
    <Tip text={help}>
      <button
        type="button"
        aria-pressed={drawing?.restart === restart}
        className={cx(
          'flex h-6 items-center gap-1 rounded-md border px-1.5',
          drawing?.restart === restart ? 'border-mist bg-bark' : 'border-twig hover:bg-bark',
        )}
        onClick={() => draw(restart)}
      >
        {restart ? <Pencil size={12} strokeWidth={1.5} /> : <Plus size={12} strokeWidth={1.5} />} {name}
      </button>
    </Tip>
  )
  return (
    <div className="flex w-full min-w-0 flex-col gap-1">
      <div className="flex flex-wrap items-center gap-1">
        <span className="mr-1 text-moss">{points.length} points</span>
        {tool(true, 'Draw again', 'Click points in the View, or drag along a line; Escape ends')}
        {points.length < MOST_POINTS && tool(false, 'Go on', 'Click more points in the View, behind the last one')}
      </div>
      {at === null ? (
        <span className="text-moss">
          {drawing ? 'Click in the View; Escape ends.' : 'Drag its points in the View; a small ring between two of them is a new one.'}
        </span>
      ) : (
        <div className="flex min-w-0 items-center gap-1">
          <Tip text="The picked point, in the path’s own space">
            <span className="w-4 shrink-0 text-moss">{at + 1}</span>
          </Tip>
          {(['X', 'Y', 'Z'] as const).map((axis, i) => (
            <span key={axis} className="relative min-w-0 flex-1">
              <span className="pointer-events-none absolute top-1 left-1.5 z-10 text-moss">{axis}</span>
              <NumberField
                className="w-full pl-5!"
                label={`Point ${at + 1} ${axis}`}
                value={points[at][i]}
                bare
                spec={{ unit: 'm', soft: [-3, 3] }}
                fps={fps}
                onChange={(v, g) =>
                  write(
                    points.map((q, k) => (k === at ? (q.map((x, a) => (a === i ? v : x)) as Vec3) : q)),
                    `point ${at + 1}`,
                    g,
                  )
                }
              />
            </span>
          ))}
          <span className="shrink-0 text-moss">m</span>
          {points.length > 2 && (
            <IconButton
              name={`Take point ${at + 1} away`}
              className="size-5!"
              onClick={() => {
                write(
                  points.filter((_, k) => k !== at),
                  'a point less',
                )
                setStudio({ point: null })
              }}
            >
              <Trash2 size={12} strokeWidth={1.5} />
            </IconButton>
          )}
        </div>
      )}
    </div>
  )
}

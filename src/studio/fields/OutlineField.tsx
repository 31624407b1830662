import { Pencil, Trash2 } from 'lucide-react'
import { type Animated, type Outline, sampleOutline } from '../../shot'
import { setStudio, useStudio } from '../store'
import { cx, IconButton, Tip } from '../ui'
import { dropCorner, setOutline } from '../view/MaskLayer'
import { type Bind, timeNow } from './bind'
import { useFps } from './fps'
import { NumberField } from './NumberField'

/** The outline of a mask: drawing in the View, and the picked corner as exact numbers. */
export function OutlineField({ bind: b }: { bind: Bind }) {
  const fps = useFps()
  const mask = useStudio((s) => s.selected)
  const drawing = useStudio((s) => s.outlining !== null)
  const picked = useStudio((s) => s.point)
  useStudio((s) => s.playhead)
  const corners = sampleOutline(b.value as Animated<Outline>, timeNow())
  if (!mask) return null
  const at = picked !== null && corners[picked] ? picked : null
  const set = (k: number, v: number, gesture: string | null) =>
    setOutline(
      mask,
      `corner ${(at ?? 0) + 1}`,
      (o) => o.map((q, i) => (i === at ? (q.map((x, a) => (a === k ? v : x)) as Outline[number]) : q)),
      gesture,
    )
  return (
    <div className="flex w-full min-w-0 flex-col gap-1">
      <div className="flex flex-wrap items-center gap-1">
        <span className="mr-1 text-moss">{corners.length} corners</span>
        <Tip text="Click the corners in the View; a drag makes a round one">
          <button
            type="button"
            aria-pressed={drawing}
            className={cx(
              'flex h-6 items-center gap-1 rounded-md border px-1.5',
              drawing ? 'border-mist bg-bark' : 'border-twig hover:bg-bark',
            )}
            onClick={() => setStudio({ outlining: drawing ? null : { mask, corners: [] }, pose: null, point: null })}
          >
            <Pencil size={12} strokeWidth={1.5} /> Draw again
          </button>
        </Tip>
      </div>
      {at === null ? (
        <span className="text-moss">Drag its corners in the View; a double click turns one round or sharp.</span>
      ) : (
        <div className="flex min-w-0 items-center gap-1">
          <Tip text="The picked corner: across and up from the middle of the picture, whose edges are at 100 %">
            <span className="w-4 shrink-0 text-moss">{at + 1}</span>
          </Tip>
          {(['Across', 'Up', 'Round'] as const).map((name, k) => (
            <NumberField
              key={name}
              className="min-w-0 flex-1"
              label={`Corner ${at + 1}, ${name.toLowerCase()}`}
              value={corners[at][k] * 100}
              spec={k === 2 ? { unit: '%', min: 0, max: 100, soft: [0, 100] } : { unit: '%', soft: [-100, 100] }}
              fps={fps}
              onChange={(v, g) => set(k, v / 100, g)}
            />
          ))}
          {corners.length > 3 && (
            <IconButton
              name={`Take corner ${at + 1} away`}
              className="size-5!"
              onClick={() => {
                dropCorner(mask, at)
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

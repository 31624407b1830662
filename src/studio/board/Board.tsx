'use client'
import { ChevronDown, ChevronUp } from 'lucide-react'
import { type PointerEvent, useRef } from 'react'
import { type CameraDoc, findElement, type ForceDoc, type LayerDoc, type LightDoc, type ObjectDoc, type SystemDoc } from '../../shot'
import { setStudio, studio, type Tab, useShot, useStudio } from '../store'
import { cx, IconButton } from '../ui'
import { CameraBoard, ForceBoard, LayerBoard, LightBoard, ObjectBoard } from './boards'
import { KeysTab } from './KeysTab'
import { RendersTab } from './RendersTab'
import { SystemBoard } from './SystemBoard'

const TABS: { id: Tab; name: string }[] = [
  { id: 'life', name: 'Life' },
  { id: 'keys', name: 'Keys' },
  { id: 'renders', name: 'Renders' },
]
const KIND: Record<string, string> = { objects: 'object', systems: 'system', forces: 'force', lights: 'light', cameras: 'camera', layers: 'layer' }
export const BOARD_MIN = 180

/** The life of the selected element, and the wide things beside it. Its top edge is dragged; it folds to its row of tabs. */
export function Board() {
  const tab = useStudio((s) => s.tab)
  const folded = useStudio((s) => s.folded)
  const height = useStudio((s) => s.boardHeight)
  const shot = useShot((s) => s)
  const selected = useStudio((s) => s.selected)
  const found = selected ? findElement(shot, selected) : null
  const alive = useStudio((s) => (selected ? s.stats[selected]?.alive : undefined))
  const drag = useRef<{ y: number; height: number } | null>(null)
  const down = (e: PointerEvent) => {
    e.currentTarget.setPointerCapture(e.pointerId)
    drag.current = { y: e.clientY, height: studio().folded ? 28 : studio().boardHeight }
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const next = d.height + d.y - e.clientY
    setStudio(next < BOARD_MIN * 0.6 ? { folded: true } : { folded: false, boardHeight: Math.round(Math.min(innerHeight - 260, Math.max(BOARD_MIN, next))) })
  }
  const up = () => {
    drag.current = null
    try {
      localStorage.setItem('board', JSON.stringify({ height: studio().boardHeight, folded: studio().folded }))
    } catch {
      // A browser that keeps nothing forgets the height, that is all.
    }
  }
  return (
    <section aria-label="Board" className="relative flex shrink-0 flex-col bg-pine" style={{ height: folded ? 28 : height }}>
      <div role="separator" aria-orientation="horizontal" aria-label="Height of the board" className="absolute -top-1 right-0 left-0 z-10 h-2 cursor-row-resize touch-none" onPointerDown={down} onPointerMove={move} onPointerUp={up} />
      <header className="flex h-7 shrink-0 items-stretch border-bark border-b">
        <div role="tablist" aria-label="Board">
          {TABS.map((t) => (
            <button key={t.id} type="button" role="tab" aria-selected={tab === t.id} onClick={() => setStudio({ tab: t.id, folded: false })} className={cx('h-full border-bark px-4', tab === t.id ? 'border-x bg-fern font-semibold' : 'text-moss hover:text-mist')}>
              {t.name}
            </button>
          ))}
        </div>
        <span className="flex-1" />
        {found && (
          <span className="flex min-w-0 items-center gap-2 pr-2">
            <b className="truncate font-semibold">{found.element.name}</b> <span className="text-moss">{KIND[found.group]}</span>
            {alive !== undefined && (
              <span className="whitespace-nowrap">
                <b className="font-semibold">{alive.toLocaleString('en-US')}</b> alive now
              </span>
            )}
          </span>
        )}
        <IconButton name={folded ? 'Unfold the board' : 'Fold the board'} keys="B" className="m-0.5" onClick={() => setStudio({ folded: !folded })}>
          {folded ? <ChevronUp size={15} strokeWidth={1.5} /> : <ChevronDown size={15} strokeWidth={1.5} />}
        </IconButton>
      </header>
      {!folded && (tab === 'keys' ? <KeysTab /> : tab === 'renders' ? <RendersTab /> : <Life />)}
    </section>
  )
}
function Life() {
  const shot = useShot((s) => s)
  const selected = useStudio((s) => s.selected)
  const found = selected ? findElement(shot, selected) : null
  if (!found) return <p className="p-4 text-moss">Nothing is selected. Choose an element in the list, or click it in the View.</p>
  switch (found.group) {
    case 'objects':
      return <ObjectBoard object={found.element as ObjectDoc} />
    case 'systems':
      return <SystemBoard system={found.element as SystemDoc} />
    case 'forces':
      return <ForceBoard force={found.element as ForceDoc} />
    case 'lights':
      return <LightBoard light={found.element as LightDoc} />
    case 'cameras':
      return <CameraBoard camera={found.element as CameraDoc} />
    case 'layers':
      return <LayerBoard layer={found.element as LayerDoc} />
  }
}

'use client'
import { ChevronDown, ChevronLeft, ChevronRight, ChevronUp, PanelBottom, PanelRight } from 'lucide-react'
import dynamic from 'next/dynamic'
import { type PointerEvent, useRef } from 'react'
import { findElement, grouped } from '../../shot'
import { KeysTab } from '../keys/KeysTab'
import { setStudio, shotNow, studio, type Tab, useShot, useStudio } from '../store'
import { cx, IconButton } from '../ui'
import { BakesTab } from './BakesTab'
import { ControlBoard, ForceBoard } from './boards'
import { CameraBoard } from './CameraBoard'
import { GasBoard } from './GasBoard'
import { GlowBoard } from './GlowBoard'
import { LayerBoard } from './LayerBoard'
import { LightBoard } from './LightBoard'
import { MaskBoard } from './MaskBoard'
import { ObjectBoard } from './ObjectBoard'
import { BOARD, clampHeight, clampWidth, keepBoard, toggleBeside, toggleFolded } from './place'
import { RendersTab } from './RendersTab'
import { SystemBoard } from './SystemBoard'

/** The charts' library is large; a page that opens does not wait for it. */
const ChartsTab = dynamic(() => import('../charts/ChartsTab').then((m) => m.ChartsTab), {
  ssr: false,
  loading: () => <p className="p-3 text-moss">Loading the charts …</p>,
})
const ParticleTab = dynamic(() => import('../particle/ParticleTab').then((m) => m.ParticleTab), {
  ssr: false,
  loading: () => <p className="p-3 text-moss">Loading what is known of a particle …</p>,
})
const TABS: { id: Tab; name: string }[] = [
  { id: 'life', name: 'Life' },
  { id: 'keys', name: 'Keys' },
  { id: 'charts', name: 'Charts' },
  { id: 'particle', name: 'Particle' },
  { id: 'bakes', name: 'Bakes' },
  { id: 'renders', name: 'Renders' },
]
const KIND: Record<string, string> = {
  objects: 'object',
  systems: 'system',
  gases: 'gas',
  forces: 'force',
  lights: 'light',
  cameras: 'camera',
  glows: 'glow',
  masks: 'mask',
  controls: 'control',
  layers: 'layer',
}

/**
 * The life of the selected element, and the wide things beside it. Stands under the View or beside it; its edge is dragged; it folds to its
 * tabs.
 */
export function Board() {
  const tab = useStudio((s) => s.tab)
  const folded = useStudio((s) => s.folded)
  const beside = useStudio((s) => s.beside)
  const height = useStudio((s) => s.boardHeight)
  const width = useStudio((s) => s.boardWidth)
  const drag = useRef<{ at: number; size: number } | null>(null)
  const down = (e: PointerEvent) => {
    e.currentTarget.setPointerCapture(e.pointerId)
    const s = studio()
    drag.current = { at: beside ? e.clientX : e.clientY, size: s.folded ? BOARD.folded : beside ? s.boardWidth : s.boardHeight }
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    if (!d) return
    const next = d.size + d.at - (beside ? e.clientX : e.clientY)
    if (next < (beside ? BOARD.minWidth : BOARD.minHeight) * 0.6) setStudio({ folded: true })
    else setStudio(beside ? { folded: false, boardWidth: clampWidth(next) } : { folded: false, boardHeight: clampHeight(next) })
  }
  const up = () => {
    drag.current = null
    keepBoard()
  }
  const edge = (
    <div
      role="separator"
      aria-orientation={beside ? 'vertical' : 'horizontal'}
      aria-label="Size of the board"
      className={cx(
        'absolute z-10 touch-none',
        beside ? '-left-1 top-0 bottom-0 w-2 cursor-col-resize' : '-top-1 right-0 left-0 h-2 cursor-row-resize',
      )}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
    />
  )
  const tabs = (
    <div role="tablist" aria-label="Board" className="flex">
      {TABS.map((t) => (
        <button
          key={t.id}
          type="button"
          role="tab"
          aria-selected={tab === t.id}
          onClick={() => setStudio({ tab: t.id, folded: false })}
          className={cx(
            'h-full border-bark px-4',
            tab === t.id ? 'border-x bg-fern font-semibold' : 'text-moss hover:text-mist',
            beside && 'px-2!',
          )}
        >
          {t.name}
        </button>
      ))}
    </div>
  )
  const tools = (
    <>
      <IconButton name={beside ? 'Board under the View' : 'Board beside the View'} className="m-0.5" onClick={toggleBeside}>
        {beside ? <PanelBottom size={15} strokeWidth={1.5} /> : <PanelRight size={15} strokeWidth={1.5} />}
      </IconButton>
      <IconButton name={folded ? 'Unfold the board' : 'Fold the board'} keys="B" className="m-0.5" onClick={toggleFolded}>
        {beside ? (
          folded ? (
            <ChevronLeft size={15} strokeWidth={1.5} />
          ) : (
            <ChevronRight size={15} strokeWidth={1.5} />
          )
        ) : folded ? (
          <ChevronUp size={15} strokeWidth={1.5} />
        ) : (
          <ChevronDown size={15} strokeWidth={1.5} />
        )}
      </IconButton>
    </>
  )
  const content =
    tab === 'keys' ? (
      <KeysTab />
    ) : tab === 'charts' ? (
      <ChartsTab />
    ) : tab === 'particle' ? (
      <ParticleTab />
    ) : tab === 'bakes' ? (
      <BakesTab />
    ) : tab === 'renders' ? (
      <RendersTab />
    ) : (
      <Life />
    )
  if (beside)
    return (
      <section
        aria-label="Board"
        className="relative flex shrink-0 flex-col border-bark border-l bg-pine"
        style={{ width: folded ? BOARD.folded : width }}
      >
        {edge}
        {folded ? (
          tools
        ) : (
          <>
            <header className="flex h-7 shrink-0 items-stretch border-bark border-b">
              {tabs}
              <span className="flex-1" />
              {tools}
            </header>
            <div className="flex h-8 shrink-0 items-center border-bark border-b px-3">
              <Subject />
            </div>
            {content}
          </>
        )}
      </section>
    )
  return (
    <section aria-label="Board" className="relative flex shrink-0 flex-col bg-pine" style={{ height: folded ? BOARD.folded : height }}>
      {edge}
      <header className="flex h-7 shrink-0 items-stretch border-bark border-b">
        {tabs}
        <span className="flex-1" />
        <Subject />
        {tools}
      </header>
      {!folded && content}
    </section>
  )
}
/** Whose life the board shows. */
function Subject() {
  const selected = useStudio((s) => s.selected)
  const name = useShot((s) => (selected ? findElement(s, selected)?.element.name : undefined))
  const found = name !== undefined && selected ? findElement(shotNow(), selected) : null
  const alive = useStudio((s) => (selected ? s.stats[selected]?.alive : undefined))
  if (!found) return null
  return (
    <span className="flex min-w-0 items-center gap-2 pr-2">
      <b className="truncate font-semibold">{found.element.name}</b> <span className="text-moss">{KIND[found.group]}</span>
      {alive !== undefined && (
        <span className="live whitespace-nowrap">
          <b className="font-semibold">{grouped(alive)}</b> alive now
        </span>
      )}
    </span>
  )
}
function Life() {
  const selected = useStudio((s) => s.selected)
  // The element itself: a change of another one does not render the board again.
  const element = useShot((s) => (selected ? findElement(s, selected)?.element : undefined))
  const found = element ? findElement(shotNow(), element.id) : null
  if (!found) return <p className="p-4 text-moss">Nothing is selected. Choose an element in the list, or click it in the View.</p>
  switch (found.group) {
    case 'objects':
      return <ObjectBoard key={found.element.id} object={found.element} />
    case 'systems':
      return <SystemBoard key={found.element.id} system={found.element} />
    case 'gases':
      return <GasBoard key={found.element.id} gas={found.element} />
    case 'forces':
      return <ForceBoard key={found.element.id} force={found.element} />
    case 'lights':
      return <LightBoard key={found.element.id} light={found.element} />
    case 'controls':
      return <ControlBoard key={found.element.id} control={found.element} />
    case 'glows':
      return <GlowBoard key={found.element.id} glow={found.element} />
    case 'masks':
      return <MaskBoard key={found.element.id} mask={found.element} />
    case 'cameras':
      return <CameraBoard key={found.element.id} camera={found.element} />
    case 'layers':
      return <LayerBoard key={found.element.id} layer={found.element} />
  }
}

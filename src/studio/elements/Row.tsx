'use client'
import {
  Anchor,
  Box,
  Camera,
  Cloud,
  CornerRightDown,
  Lightbulb,
  LogOut,
  Power,
  PowerOff,
  Shield,
  SlidersHorizontal,
  Sparkles,
  SquareDashed,
  Sun,
  SunDim,
  Type,
  Ungroup,
  Wind,
} from 'lucide-react'
import { ContextMenu } from 'radix-ui'
import { memo, useState } from 'react'
import type { ElementDoc, Group, ObjectDoc } from '../../shot'
import { grouped } from '../../shot'
import { muteElement, renameElement } from '../commands'
import { select, useStudio } from '../store'
import { cx, NameInput, Tip } from '../ui'
import { MARK_COLOURS } from './marks'
import { RowMenu } from './RowMenu'

const ICONS: Record<Group, typeof Box> = {
  objects: Box,
  systems: Sparkles,
  gases: Cloud,
  forces: Wind,
  lights: Lightbulb,
  cameras: Camera,
  glows: Sun,
  masks: SquareDashed,
  controls: SlidersHorizontal,
  layers: SunDim,
}

export const iconOf = (group: Group, e: ElementDoc): typeof Box => {
  const kind = group === 'objects' ? (e as ObjectDoc).shape.kind : ''
  return kind === 'anchor' ? Anchor : kind === 'text' ? Type : kind === 'group' ? Ungroup : ICONS[group]
}

/** Rendered again only when its element changes: the document shares what a change leaves alone. */
export const Row = memo(function Row({ element: e, group, depth }: { element: ElementDoc; group: Group; depth: number }) {
  const selected = useStudio((s) => s.selected === e.id)
  const alive = useStudio((s) => s.stats[e.id]?.alive)
  const warning = useStudio(
    (s) => s.status?.notices.find((n) => n.element === e.id)?.message ?? s.status?.problems.find((p) => p.element === e.id)?.message,
  )
  const solo = useStudio((s) => s.solo.has(e.id))
  const aside = useStudio((s) => s.solo.size > 0 && !s.solo.has(e.id))
  const [renaming, setRenaming] = useState(false)
  const object = group === 'objects' ? (e as ObjectDoc) : null
  const Icon = iconOf(group, e)
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger asChild>
        <div
          role="treeitem"
          aria-selected={selected}
          tabIndex={0}
          data-element={e.id}
          onClick={() => select(e.id)}
          onContextMenu={() => select(e.id)}
          onDoubleClick={() => setRenaming(true)}
          onKeyDown={(k) => {
            if (k.target !== k.currentTarget) return
            if (k.key === 'Enter') select(e.id)
            if (k.key === 'F2') setRenaming(true)
          }}
          style={depth ? { paddingLeft: 16 + Math.min(depth, 6) * 12 } : undefined}
          className={cx(
            'group relative mx-1 flex h-6 items-center gap-2 rounded-md border pr-2 pl-4',
            selected ? 'border-bark bg-fern font-semibold' : 'border-transparent hover:bg-fern/60',
            aside && group !== 'cameras' && group !== 'masks' && group !== 'layers' && group !== 'controls' && 'opacity-60',
          )}
        >
          {e.mark && (
            <span
              title={`Mark: ${e.mark}`}
              className="absolute top-1 bottom-1 left-1 w-[3px] rounded-full"
              style={{ background: MARK_COLOURS[e.mark] }}
            />
          )}
          <Icon size={14} strokeWidth={1.5} className={cx('shrink-0', solo ? 'text-mist' : 'text-moss')} />
          {renaming ? (
            <NameInput
              label={`Name of ${e.name}`}
              value={e.name}
              className="w-full"
              onDone={(name) => {
                if (name) renameElement(e.id, name)
                setRenaming(false)
              }}
            />
          ) : (
            <span className={cx('min-w-0 flex-1 truncate', e.muted && 'text-moss line-through')} title={e.name}>
              {e.name}
            </span>
          )}
          {solo && <span className="shrink-0 rounded-sm border border-twig px-1 text-micro leading-4">alone</span>}
          {warning && (
            <Tip text={warning} side="right">
              <span
                role="img"
                aria-label={warning}
                className="grid size-4 shrink-0 place-items-center rounded-full border border-amber font-semibold text-micro text-amber"
              >
                !
              </span>
            </Tip>
          )}
          {object?.roles.source && (
            <Tip text="Source: births start on it">
              <LogOut size={13} strokeWidth={1.5} className="shrink-0 text-moss" />
            </Tip>
          )}
          {object?.roles.collider && (
            <Tip text="Collider: stops particles">
              <Shield size={13} strokeWidth={1.5} className="shrink-0 text-moss" />
            </Tip>
          )}
          {object?.body && (
            <Tip text="Thrown: forces and contact move it">
              <CornerRightDown size={13} strokeWidth={1.5} className="shrink-0 text-moss" />
            </Tip>
          )}
          {group === 'systems' && alive !== undefined && !e.muted && (
            <span className={cx('live', !selected && 'text-moss')}>{grouped(alive)}</span>
          )}
          {group !== 'cameras' && (
            <button
              type="button"
              aria-label={e.muted ? `Switch ${e.name} on` : `Mute ${e.name}`}
              className={cx('shrink-0 text-moss hover:text-mist', !e.muted && 'hidden group-hover:block group-focus-within:block')}
              onClick={(ev) => {
                ev.stopPropagation()
                muteElement(e.id)
              }}
            >
              {e.muted ? <PowerOff size={13} strokeWidth={1.5} /> : <Power size={13} strokeWidth={1.5} />}
            </button>
          )}
        </div>
      </ContextMenu.Trigger>
      <RowMenu element={e} group={group} rename={() => setTimeout(() => setRenaming(true), 0)} />
    </ContextMenu.Root>
  )
})

'use client'
import { Bookmark, Check, ChevronDown, CloudOff, LoaderCircle, Redo2, Search, TriangleAlert, Undo2 } from 'lucide-react'
import Link from 'next/link'
import { Popover } from 'radix-ui'
import { pause } from './playback'
import { edit, redoStep, setStudio, undoStep, useShot, useStudio } from './store'
import { ShotSettings } from './time/ShotSettings'
import { Button, IconButton, Mark, Tip } from './ui'
import { clockTime } from './units'

export function Header() {
  const project = useStudio((s) => s.project)
  const name = useShot((s) => s.name)
  const settings = useStudio((s) => s.dialog === 'shot')
  const undoLabel = useStudio((s) => s.line.past.at(-1)?.label)
  const redoLabel = useStudio((s) => s.line.future[0]?.label)
  return (
    <header className="flex h-10 shrink-0 items-center gap-2 border-bark border-b bg-pine px-3">
      <Link href="/" className="flex w-[204px] shrink-0 items-center gap-2.5 font-semibold text-lead max-[1100px]:w-[168px]">
        <Mark /> Fox Ember
      </Link>
      <Link href="/" className="max-w-48 truncate text-lead text-moss hover:text-mist">
        {project.name}
      </Link>
      <span className="text-moss">/</span>
      <Popover.Root open={settings} onOpenChange={(o) => setStudio({ dialog: o ? 'shot' : null })}>
        <Popover.Trigger className="flex h-7 min-w-0 max-w-64 items-center gap-2 rounded-md px-1 font-semibold text-lead hover:bg-fern">
          <span className="truncate">{name}</span> <ChevronDown size={14} strokeWidth={1.5} className="shrink-0 text-moss" />
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            align="start"
            sideOffset={4}
            collisionPadding={8}
            className="z-40 max-h-(--radix-popover-content-available-height) w-72 overflow-y-auto rounded-md border border-bark bg-pine p-3 shadow-xl outline-none"
          >
            <label className="mb-2 flex items-center gap-2">
              <span className="w-20 text-moss">Name</span>
              <input
                defaultValue={name}
                aria-label="Name of the shot"
                className="h-6 min-w-0 flex-1 rounded-md border border-twig bg-night px-2"
                onBlur={(e) => {
                  const v = e.target.value.trim()
                  if (v) edit('name of the shot', (s) => void (s.name = v.slice(0, 200)))
                }}
                onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
              />
            </label>
            <ShotSettings />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <span className="mx-1 h-4 w-px bg-bark" />
      <IconButton name={undoLabel ? `Undo ${undoLabel}` : 'Nothing to undo'} keys="Ctrl Z" disabled={!undoLabel} onClick={undoStep}>
        <Undo2 size={15} strokeWidth={1.5} />
      </IconButton>
      <IconButton name={redoLabel ? `Redo ${redoLabel}` : 'Nothing to redo'} keys="Ctrl Shift Z" disabled={!redoLabel} onClick={redoStep}>
        <Redo2 size={15} strokeWidth={1.5} />
      </IconButton>
      <span className="flex-1" />
      <Saved />
      <span className="mx-1 h-4 w-px bg-bark" />
      <button
        type="button"
        className="flex h-7 items-center gap-2 rounded-md border border-bark bg-night px-2.5 text-moss hover:text-mist"
        onClick={() => setStudio({ dialog: 'palette' })}
      >
        <Search size={14} strokeWidth={1.5} />
        <span className="max-[1100px]:hidden">Find anything</span>
        <span className="border-bark border-l pl-2 text-caption">Ctrl K</span>
      </button>
      <Button onClick={() => setStudio({ dialog: 'versions' })}>
        <Bookmark size={14} strokeWidth={1.5} /> Versions
      </Button>
      <Button
        main
        onClick={() => {
          pause()
          setStudio({ dialog: 'render' })
        }}
      >
        Render
      </Button>
    </header>
  )
}
/** What the server says is in the way, where it is more than a moment's absence. */
const CAUSES: Record<string, string> = {
  'disk full': 'Disk full. ',
  'database away': 'Database away. ',
  'database silent': 'Database silent. ',
}
const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)
function Saved() {
  const save = useStudio((s) => s.save)
  switch (save.kind) {
    case 'saved':
      return (
        <output className="flex items-center gap-1.5 text-moss">
          <Check size={14} strokeWidth={1.5} className="text-lichen" /> Saved {save.at && clockTime(save.at)}
        </output>
      )
    case 'waiting':
    case 'saving':
      return (
        <output className="flex items-center gap-1.5 text-moss">
          <LoaderCircle size={14} strokeWidth={1.5} /> Saving
        </output>
      )
    case 'offline':
      return (
        <Tip text={`${capital(save.message)}. Your changes are kept in this browser and sent as soon as it answers.`}>
          <output className="flex items-center gap-1.5 text-amber">
            <CloudOff size={14} strokeWidth={1.5} /> {CAUSES[save.cause ?? ''] ?? ''}Kept here, not sent yet
          </output>
        </Tip>
      )
    case 'conflict':
      return <output className="text-amber">Changed elsewhere</output>
    case 'refused':
      return (
        <Tip text={save.message}>
          <output className="flex items-center gap-1.5 text-berry">
            <TriangleAlert size={14} strokeWidth={1.5} /> Not saved
          </output>
        </Tip>
      )
  }
}

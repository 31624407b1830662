'use client'
import { Command, useCommandState } from 'cmdk'
import { Search } from 'lucide-react'
import { commands, elementsOf, GROUP_NAMES } from '../commands'
import { select, setStudio, shotNow, useStudio } from '../store'

const close = () => setStudio({ dialog: null })
/** Every word must be in the name, in any order. */
const has = (_key: string, query: string, names: string[] = []): number => {
  const text = names.join(' ').toLowerCase()
  return query
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .every((w) => text.includes(w))
    ? 1
    : 0
}
interface Found {
  key: string
  name: string
  side: string
  run: () => void
}
function everything(): Found[] {
  return [
    ...elementsOf(shotNow()).map(({ group, element }) => ({
      key: element.id,
      name: element.name,
      side: GROUP_NAMES[group],
      run: () => {
        select(element.id)
        setStudio({ tab: 'life', folded: false })
      },
    })),
    ...commands().map((c) => ({ key: `command ${c.name}`, name: c.name, side: c.keys ?? '', run: c.run })),
  ]
}

/** Ctrl+K: any element or command by a part of its name. */
export function Palette() {
  const open = useStudio((s) => s.dialog === 'palette')
  return (
    <Command.Dialog
      open={open}
      onOpenChange={(o) => !o && close()}
      label="Find anything"
      filter={has}
      loop
      overlayClassName="fixed inset-0 z-40 bg-night/60"
      contentClassName="fixed top-[14%] left-1/2 z-40 w-[460px] max-w-[94vw] -translate-x-1/2 rounded-md border border-bark bg-pine shadow-xl outline-none"
    >
      {open && <Finder />}
    </Command.Dialog>
  )
}
function Finder() {
  const query = useCommandState((s) => s.search)
  return (
    <>
      <div className="flex h-10 items-center gap-2 border-bark border-b px-3">
        <Search size={15} strokeWidth={1.5} className="text-moss" />
        <Command.Input
          aria-label="Find an element or a command"
          placeholder="Find an element or a command"
          className="w-full bg-transparent text-lead outline-none placeholder:text-moss"
        />
      </div>
      <Command.List className="max-h-80 overflow-y-auto py-1">
        <Command.Empty className="px-3 py-2 text-moss">Nothing is called “{query}”.</Command.Empty>
        {everything().map((x) => (
          <Command.Item
            key={x.key}
            value={x.key}
            keywords={[x.name, x.side]}
            className="flex h-7 items-center justify-between px-3 data-[selected=true]:bg-fern"
            onSelect={() => {
              close()
              x.run()
            }}
          >
            {x.name}
            <span className="text-moss">{x.side}</span>
          </Command.Item>
        ))}
      </Command.List>
    </>
  )
}

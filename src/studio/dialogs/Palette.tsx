'use client'
import { Command, useCommandState } from 'cmdk'
import { Search } from 'lucide-react'
import { find } from '../finding'
import { setStudio, useStudio } from '../store'

const close = () => setStudio({ dialog: null })

/** Ctrl+K: any element, value, command or act, by its name, by what else it is called, or by what it does. */
export function Palette() {
  const open = useStudio((s) => s.dialog === 'palette')
  return (
    <Command.Dialog
      open={open}
      onOpenChange={(o) => !o && close()}
      label="Find anything"
      shouldFilter={false}
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
          aria-label="Find or add anything"
          placeholder="Find or add anything"
          className="w-full bg-transparent text-lead outline-none placeholder:text-moss"
        />
      </div>
      <Command.List className="max-h-80 overflow-y-auto py-1">
        <Command.Empty className="px-3 py-2 text-moss">Nothing is called “{query}”.</Command.Empty>
        {find(query).map((x) => (
          <Command.Item
            key={x.key}
            value={x.key}
            className="flex h-7 items-center justify-between gap-3 px-3 data-[selected=true]:bg-fern"
            onSelect={() => {
              close()
              x.run()
            }}
          >
            <span className="truncate">{x.name}</span>
            <span className="shrink-0 text-moss">{x.side}</span>
          </Command.Item>
        ))}
      </Command.List>
    </>
  )
}

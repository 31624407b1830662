'use client'
import { Search } from 'lucide-react'
import { Dialog } from 'radix-ui'
import { useEffect, useState } from 'react'
import { api, messageOf, type VersionHead } from '../api'
import { commands, elementsOf, GROUP_NAMES } from '../commands'
import { edit, select, setStudio, shotNow, studio, useStudio } from '../store'
import { toast } from '../toast'
import { Button, cx } from '../ui'
import { Modal } from './Modal'

const close = () => setStudio({ dialog: null })

/** Ctrl+K: any element or command by a part of its name. */
export function Palette() {
  const open = useStudio((s) => s.dialog === 'palette')
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-night/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[14%] left-1/2 z-40 w-[460px] max-w-[94vw] -translate-x-1/2 rounded-[3px] border border-bark bg-pine shadow-xl outline-none"
        >
          <Dialog.Title className="sr-only">Find anything</Dialog.Title>
          {open && <Finder />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
function Finder() {
  const [query, setQuery] = useState('')
  const [at, setAt] = useState(0)
  const words = query.toLowerCase().split(/\s+/).filter(Boolean)
  const all = [
    ...elementsOf(shotNow()).map(({ group, element }) => ({
      name: element.name,
      side: GROUP_NAMES[group],
      run: () => {
        select(element.id)
        setStudio({ tab: 'life', folded: false })
      },
    })),
    ...commands().map((c) => ({ name: c.name, side: c.keys ?? '', run: c.run })),
  ]
  const list = all.filter((x) => words.every((w) => `${x.name} ${x.side}`.toLowerCase().includes(w))).slice(0, 60)
  const go = (i: number) => {
    const chosen = list[i]
    if (!chosen) return
    close()
    chosen.run()
  }
  return (
    <>
      <label className="flex h-10 items-center gap-2 border-bark border-b px-3">
        <Search size={15} strokeWidth={1.5} className="text-moss" />
        <input
          // biome-ignore lint/a11y/noAutofocus: a search that was just asked for
          autoFocus
          role="combobox"
          aria-expanded
          aria-controls="found"
          aria-activedescendant={`found-${at}`}
          aria-label="Find an element or a command"
          placeholder="Find an element or a command"
          className="w-full bg-transparent text-[13px] outline-none placeholder:text-moss"
          value={query}
          onChange={(e) => {
            setQuery(e.target.value)
            setAt(0)
          }}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
              e.preventDefault()
              setAt((i) => Math.max(0, Math.min(list.length - 1, i + (e.key === 'ArrowDown' ? 1 : -1))))
            } else if (e.key === 'Enter') go(at)
          }}
        />
      </label>
      <div id="found" role="listbox" className="max-h-80 overflow-y-auto py-1">
        {list.map((x, i) => (
          <div
            key={`${x.name}-${x.side}`}
            id={`found-${i}`}
            role="option"
            tabIndex={-1}
            aria-selected={i === at}
            ref={(el) => {
              if (i === at) el?.scrollIntoView({ block: 'nearest' })
            }}
            className={cx('flex h-7 items-center justify-between px-3', i === at && 'bg-fern')}
            onPointerMove={() => setAt(i)}
            onClick={() => go(i)}
            onKeyDown={() => {}}
          >
            {x.name}
            <span className="text-moss">{x.side}</span>
          </div>
        ))}
        {!list.length && <p className="px-3 py-2 text-moss">Nothing is called “{query}”.</p>}
      </div>
    </>
  )
}
export function Shortcuts() {
  const open = useStudio((s) => s.dialog === 'shortcuts')
  const more = [
    ['Find anything', 'Ctrl K'],
    ['Orbit', 'drag in the View'],
    ['Pan', 'Shift drag, or the middle button'],
    ['Zoom', 'wheel'],
    ['Finer, coarser steps of a number', 'Shift, Ctrl'],
    ['Back to the default', 'double-click the label'],
    ['Ten frames', 'Shift ← →'],
  ]
  return (
    <Modal open={open} onClose={close} title="Shortcuts" width="w-[560px]">
      <dl className="grid grid-cols-2 gap-x-8">
        {open &&
          [
            ...commands()
              .filter((c) => c.keys)
              .map((c) => [c.name, c.keys as string]),
            ...more,
          ].map(([name, keys]) => (
            <div key={name} className="flex h-6 items-center justify-between gap-3 border-bark/50 border-b">
              <dt className="truncate">{name}</dt>
              <dd className="shrink-0 text-moss">{keys}</dd>
            </div>
          ))}
      </dl>
    </Modal>
  )
}
export function Versions() {
  const open = useStudio((s) => s.dialog === 'versions')
  const [list, setList] = useState<VersionHead[] | null>(null)
  const [name, setName] = useState('')
  const load = () => api.versions(studio().id).then(setList, (e) => toast(messageOf(e), true))
  useEffect(() => {
    if (open) void load()
  }, [open])
  const openVersion = async (v: VersionHead) => {
    try {
      const { doc } = await api.version(studio().id, v.id)
      edit(`opening the version of ${new Date(v.at).toLocaleString()}`, (s) => void Object.assign(s, doc))
      close()
    } catch (error) {
      toast(messageOf(error), true)
    }
  }
  return (
    <Modal open={open} onClose={close} title="Saved versions">
      <form
        className="mb-3 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (!name.trim()) return
          api.nameVersion(studio().id, name.trim()).then(
            () => {
              setName('')
              void load()
            },
            (err) => toast(messageOf(err), true),
          )
        }}
      >
        <input
          value={name}
          onChange={(e) => setName(e.target.value)}
          placeholder="Keep what is saved now under a name"
          aria-label="Name of the version"
          className="h-7 min-w-0 flex-1 rounded-[3px] border border-twig bg-night px-2"
        />
        <Button type="submit" disabled={!name.trim()}>
          Keep
        </Button>
      </form>
      {list?.map((v) => (
        <button
          key={v.id}
          type="button"
          className="flex h-7 w-full items-center justify-between rounded-[3px] px-2 hover:bg-fern"
          onClick={() => void openVersion(v)}
        >
          <span>{v.name ?? <span className="text-moss">automatic</span>}</span>
          <span className="text-moss">{new Date(v.at).toLocaleString()}</span>
        </button>
      ))}
      {list?.length === 0 && (
        <p className="text-moss">No older version yet. One is kept every few minutes while you work; named ones stay for good.</p>
      )}
      <p className="mt-3 text-moss">Opening a version is a change like any other: undo takes it back.</p>
    </Modal>
  )
}
export function Conflict() {
  const conflict = useStudio((s) => s.save.kind === 'conflict')
  return (
    <Modal open={conflict} onClose={() => {}} title="This shot was changed elsewhere">
      <p className="mb-3">Another window saved a newer state of this shot. Nothing of yours is lost: choose what to go on with.</p>
      <div className="flex justify-end gap-2">
        <Button onClick={() => void import('../page').then((p) => p.keepCopy())}>Keep mine as a copy</Button>
        <Button main onClick={() => void import('../page').then((p) => p.reloadTheirs())}>
          Reload theirs
        </Button>
      </div>
    </Modal>
  )
}

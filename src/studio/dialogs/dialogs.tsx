'use client'
import { useCallback, useEffect, useState } from 'react'
import { api, messageOf, type VersionHead } from '../api'
import { commands } from '../commands'
import { edit, setStudio, studio, useStudio } from '../store'
import { toast } from '../toast'
import { Button } from '../ui'
import { Modal } from './Modal'

const close = () => setStudio({ dialog: null })

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
  const load = useCallback(() => api.versions(studio().id).then(setList, (e) => toast(messageOf(e), true)), [])
  useEffect(() => {
    if (open) void load()
  }, [open, load])
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
          className="h-7 min-w-0 flex-1 rounded-md border border-twig bg-night px-2"
        />
        <Button type="submit" disabled={!name.trim()}>
          Keep
        </Button>
      </form>
      {list?.map((v) => (
        <button
          key={v.id}
          type="button"
          className="flex h-7 w-full items-center justify-between rounded-md px-2 hover:bg-fern"
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

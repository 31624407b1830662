'use client'
import { ChevronDown, ChevronRight, FolderMinus, Power, PowerOff } from 'lucide-react'
import { useState } from 'react'
import { type ElementDoc, type FolderDoc, GROUPS, type Shot } from '../../shot'
import { muteFolder, removeFolder } from '../arranging'
import { edit } from '../store'
import { cx, NameInput, Tip } from '../ui'
import { Row } from './Row'

/** A fold of the list: elements of any kind, in the order of their groups. It is nothing more, so taking it away leaves them. */
export function Folder({ folder: f, shot }: { folder: FolderDoc; shot: Shot }) {
  const [open, setOpen] = useState(true)
  const [naming, setNaming] = useState(false)
  const inside = GROUPS.flatMap((group) => (shot[group] as ElementDoc[]).filter((e) => e.folder === f.id).map((e) => ({ e, group })))
  const muted = inside.length > 0 && inside.every(({ e }) => e.muted)
  const small = 'hidden shrink-0 text-moss hover:text-mist group-hover:block group-focus-within:block'
  const rename = (name: string | null) => {
    setNaming(false)
    if (name)
      edit(`name of the folder ${name}`, (s) => {
        const x = s.folders.find((y) => y.id === f.id)
        if (x) x.name = name
      })
  }
  return (
    <section aria-label={`Folder ${f.name}`}>
      <div className="group flex h-6 items-center gap-1.5 px-2">
        <button
          type="button"
          aria-expanded={open}
          aria-label={`${open ? 'Fold' : 'Unfold'} ${f.name}`}
          className="text-moss hover:text-mist"
          onClick={() => setOpen(!open)}
        >
          {open ? <ChevronDown size={13} strokeWidth={1.5} /> : <ChevronRight size={13} strokeWidth={1.5} />}
        </button>
        {naming ? (
          <NameInput label={`Name of the folder ${f.name}`} value={f.name} onDone={rename} />
        ) : (
          <button
            type="button"
            className={cx('min-w-0 flex-1 truncate text-left font-semibold', muted && 'text-moss line-through')}
            title={`${f.name}: double-click to rename`}
            onDoubleClick={() => setNaming(true)}
            onClick={() => setOpen(!open)}
          >
            {f.name}
          </button>
        )}
        <Tip text={muted ? 'Switch all of it on' : 'Mute all of it'}>
          <button
            type="button"
            aria-label={`${muted ? 'Switch on' : 'Mute'} all in ${f.name}`}
            className={cx(muted ? 'shrink-0 text-moss hover:text-mist' : small)}
            onClick={() => muteFolder(f.id, !muted)}
          >
            {muted ? <PowerOff size={13} strokeWidth={1.5} /> : <Power size={13} strokeWidth={1.5} />}
          </button>
        </Tip>
        <Tip text="Take the folder away; what is in it stays">
          <button type="button" aria-label={`Take the folder ${f.name} away`} className={small} onClick={() => removeFolder(f.id)}>
            <FolderMinus size={13} strokeWidth={1.5} />
          </button>
        </Tip>
        <span className="pr-2 text-moss">{inside.length}</span>
      </div>
      {open && inside.map(({ e, group }) => <Row key={e.id} element={e} group={group} depth={0} />)}
      {open && !inside.length && <p className="px-8 py-0.5 text-moss">Empty.</p>}
    </section>
  )
}

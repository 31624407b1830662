'use client'
import { Plus } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { memo, useState } from 'react'
import { type Act, actsOfSort, type Sort } from '../../acts'
import type { ActDoc } from '../../shot'
import { newAct } from '../create'
import { MenuSearch, NothingFound } from '../MenuSearch'
import { best } from '../search'
import { setStudio } from '../store'
import { IconButton, Menu, menuContent } from '../ui'

/** A plus that lists the acts of some sorts; each with what it does. `onAdd` finds its list by id, so an older one does the same. */
export const AddAct = memo(Add, (a, b) => a.name === b.name && a.sorts.join() === b.sorts.join() && a.fits === b.fits)
function Add({
  sorts,
  name,
  onAdd,
  keepOpen,
  fits = () => true,
}: {
  /** Only such acts; the same function each time. */
  fits?: (act: Act) => boolean
  sorts: Sort[]
  name: string
  onAdd: (act: ActDoc, sort: Sort) => void /** The card that is open stays so. */
  keepOpen?: boolean
}) {
  const [query, setQuery] = useState('')
  const [open, setOpen] = useState(false)
  const all = sorts.flatMap((sort) =>
    actsOfSort(sort)
      .filter(fits)
      .map((act) => ({ act, sort })),
  )
  const found = best(query, all, ({ act }) => [act.title, act.synonyms?.join(' ') ?? '', act.help])
  const take = ({ act: a, sort }: (typeof all)[number]) => {
    const act = newAct(a.kind)
    onAdd(act, sort)
    if (!keepOpen) setStudio({ open: act.id })
  }
  const change = (o: boolean) => {
    setOpen(o)
    setQuery('')
  }
  return (
    <Menu open={open} onOpenChange={change}>
      <DropdownMenu.Trigger asChild>
        <IconButton name={name}>
          <Plus size={15} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          className={`${menuContent} max-h-[var(--radix-dropdown-menu-content-available-height)] overflow-y-auto pt-0`}
          align="end"
          collisionPadding={8}
        >
          {all.length > 4 && (
            <MenuSearch
              query={query}
              onQuery={setQuery}
              label={`Find in: ${name}`}
              onFirst={() => {
                if (!found[0]) return
                take(found[0])
                change(false)
              }}
            />
          )}
          {found.map((x) => (
            <DropdownMenu.Item
              key={x.act.kind}
              className="block min-h-6 px-3 py-1 text-mist outline-none data-[highlighted]:bg-fern"
              onSelect={() => take(x)}
            >
              {x.act.title}
              <span className="block text-moss">{x.act.help}</span>
            </DropdownMenu.Item>
          ))}
          {!found.length && <NothingFound>Nothing here is called “{query}”.</NothingFound>}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
}

'use client'
import { Plus } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { memo } from 'react'
import { actsOfSort, type Sort } from '../../acts'
import type { ActDoc } from '../../shot'
import { newAct } from '../create'
import { setStudio } from '../store'
import { IconButton, menuContent } from '../ui'

/** A plus that lists the acts of some sorts; each with what it does. `onAdd` finds its list by id, so an older one does the same. */
export const AddAct = memo(Add, (a, b) => a.name === b.name && a.sorts.join() === b.sorts.join())
function Add({
  sorts,
  name,
  onAdd,
  keepOpen,
}: {
  sorts: Sort[]
  name: string
  onAdd: (act: ActDoc, sort: Sort) => void /** The card that is open stays so. */
  keepOpen?: boolean
}) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <IconButton name={name}>
          <Plus size={15} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          className={`${menuContent} max-h-[var(--radix-dropdown-menu-content-available-height)] overflow-y-auto`}
          align="end"
          collisionPadding={8}
        >
          {sorts.flatMap((sort) =>
            actsOfSort(sort).map((a) => (
              <DropdownMenu.Item
                key={a.kind}
                className="block min-h-6 px-3 py-1 text-mist outline-none data-[highlighted]:bg-fern"
                onSelect={() => {
                  const act = newAct(a.kind)
                  onAdd(act, sort)
                  if (!keepOpen) setStudio({ open: act.id })
                }}
              >
                {a.title}
                <span className="block text-moss">{a.help}</span>
              </DropdownMenu.Item>
            )),
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

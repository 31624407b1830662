'use client'
import { Ellipsis } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { IconButton, Menu, menuContent, menuItem } from '../ui'

/** What else may be done with a project or a shot. */
export function MoreMenu({
  name,
  rename,
  copy,
  pack,
  baked,
  remove,
}: {
  name: string
  rename?: () => void
  copy?: () => void
  /** Where the packed shot comes from. */
  pack?: string
  /** The same, with its bakes. */
  baked?: string
  remove: () => void
}) {
  return (
    <Menu>
      <DropdownMenu.Trigger asChild>
        <IconButton name={`More for ${name}`} className="m-1">
          <Ellipsis size={15} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={menuContent} align="end">
          {rename && (
            <DropdownMenu.Item className={menuItem} onSelect={rename}>
              Rename …
            </DropdownMenu.Item>
          )}
          {copy && (
            <DropdownMenu.Item className={menuItem} onSelect={copy}>
              Duplicate
            </DropdownMenu.Item>
          )}
          {pack && (
            <DropdownMenu.Item className={menuItem} asChild>
              <a href={pack} download>
                Pack with all its assets
              </a>
            </DropdownMenu.Item>
          )}
          {baked && (
            <DropdownMenu.Item className={menuItem} asChild>
              <a href={baked} download>
                Pack with its bakes too
              </a>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={menuItem} onSelect={remove}>
            Delete …
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
}

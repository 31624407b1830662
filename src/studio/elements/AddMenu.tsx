'use client'
import { ChevronRight, Plus } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { memo, useState } from 'react'
import { actsOfSort, PRIMITIVES } from '../../acts'
import {
  ALL_RECIPES,
  addAnchor,
  addCamera,
  addControl,
  addFog,
  addForce,
  addGas,
  addGlow,
  addGroup,
  addLight,
  addMask,
  addPlane,
  addPrimitive,
  addRecipe,
  addSystem,
  addText,
  chooseFiles,
} from '../commands'
import { find } from '../finding'
import { addLayer } from '../layers'
import { MenuSearch, NothingFound } from '../MenuSearch'
import { pictureOf } from '../recipes'
import { IconButton, Menu, menuContent } from '../ui'

/** Everything that can be added to a shot. */
export const AddMenu = memo(function AddMenu() {
  const item = (name: string, run: () => void, help?: string, picture?: string) => (
    <DropdownMenu.Item
      key={name}
      className="flex min-h-6 items-center gap-3 px-3 py-1 outline-none data-[highlighted]:bg-fern"
      onSelect={run}
    >
      {picture && <img src={picture} alt="" width={72} height={40} className="h-10 w-[72px] shrink-0 rounded-sm bg-black object-cover" />}
      <span>
        {name}
        {help && <span className="block max-w-[380px] text-moss">{help}</span>}
      </span>
    </DropdownMenu.Item>
  )
  const [query, setQuery] = useState('')
  const [open, setOpen] = useState(false)
  const change = (o: boolean) => {
    setOpen(o)
    setQuery('')
  }
  const found = query.trim() ? find(query, 12, (x) => x.adds) : []
  return (
    <Menu open={open} onOpenChange={change}>
      <DropdownMenu.Trigger asChild>
        <IconButton name="Add an element">
          <Plus size={16} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          className={`${menuContent} max-h-(--radix-dropdown-menu-content-available-height) overflow-y-auto pt-0`}
          align="start"
          collisionPadding={8}
        >
          <MenuSearch
            query={query}
            onQuery={setQuery}
            label="Find what to add"
            onFirst={() => {
              found[0]?.run()
              if (found[0]) change(false)
            }}
          />
          {query.trim() ? (
            <>
              {found.map((x) => item(x.name, x.run, x.side || undefined))}
              {!found.length && <NothingFound>Nothing that can be added is called “{query}”.</NothingFound>}
            </>
          ) : (
            <>
              {item(
                'From a file …',
                chooseFiles,
                'A mesh, a picture, a video, light all around (HDR, EXR), a volume (VDB), a drawing, a font, a table of a camera; or drop it into the View',
              )}
              <DropdownMenu.Sub>
                <DropdownMenu.SubTrigger className="flex min-h-6 items-center justify-between px-3 py-1 outline-none data-[highlighted]:bg-fern data-[state=open]:bg-fern">
                  Shape <ChevronRight size={13} strokeWidth={1.5} />
                </DropdownMenu.SubTrigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.SubContent className={menuContent} collisionPadding={8}>
                    {item('Plane', addPlane, 'Flat; as an endless one it is a floor')}
                    {PRIMITIVES.map((p) => item(p.title, () => addPrimitive(p.kind), p.help))}
                  </DropdownMenu.SubContent>
                </DropdownMenu.Portal>
              </DropdownMenu.Sub>
              {item('Text', addText, 'Letters with depth and a rounded rim')}
              {item('Anchor', addAnchor, 'A place without geometry')}
              {item('Group', addGroup, 'A place that other objects are parented to')}
              <DropdownMenu.Separator className="my-1 h-px bg-bark" />
              {item('System', () => addSystem(), 'Particles with a life of their own')}
              {item('Gas', addGas, 'Smoke and fire that objects and particles feed')}
              {item('Fog', addFog, 'A thin mist over all, in which lights make cones')}
              <DropdownMenu.Sub>
                <DropdownMenu.SubTrigger className="flex min-h-6 items-center justify-between px-3 py-1 outline-none data-[highlighted]:bg-fern data-[state=open]:bg-fern">
                  Recipe <ChevronRight size={13} strokeWidth={1.5} />
                </DropdownMenu.SubTrigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.SubContent
                    className={`${menuContent} max-h-[var(--radix-dropdown-menu-content-available-height)] overflow-y-auto`}
                    collisionPadding={8}
                  >
                    {ALL_RECIPES.map((r) => item(r.name, () => addRecipe(r), r.help, pictureOf(r)))}
                  </DropdownMenu.SubContent>
                </DropdownMenu.Portal>
              </DropdownMenu.Sub>
              <DropdownMenu.Separator className="my-1 h-px bg-bark" />
              <DropdownMenu.Sub>
                <DropdownMenu.SubTrigger className="flex min-h-6 items-center justify-between px-3 py-1 outline-none data-[highlighted]:bg-fern data-[state=open]:bg-fern">
                  Force on all systems <ChevronRight size={13} strokeWidth={1.5} />
                </DropdownMenu.SubTrigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.SubContent
                    className={`${menuContent} max-h-[var(--radix-dropdown-menu-content-available-height)] overflow-y-auto`}
                    collisionPadding={8}
                  >
                    {actsOfSort('force').map((a) => item(a.title, () => addForce(a.kind), a.help))}
                  </DropdownMenu.SubContent>
                </DropdownMenu.Portal>
              </DropdownMenu.Sub>
              <DropdownMenu.Separator className="my-1 h-px bg-bark" />
              {item('Light', addLight)}
              {item('Glow', addGlow, 'What the eye sees about a lamp, with rays; or a line that shines, along a path')}
              {item('Camera', addCamera)}
              {item('Mask', addMask, 'Drawn in the picture: what of the plate lies in front of what')}
              {item('Layer', () => void addLayer(), 'Elements that are blended and finished apart, over the picture or at a depth in it')}
              {item('Control', addControl, 'A value of your own that others follow')}
            </>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
})

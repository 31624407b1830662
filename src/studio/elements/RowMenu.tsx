'use client'
import { Check, ChevronRight } from 'lucide-react'
import { ContextMenu } from 'radix-ui'
import type { ReactNode } from 'react'
import { layerOf } from '../../acts'
import { type ElementDoc, findElement, type Group, MARKS, type ObjectDoc } from '../../shot'
import { putIntoFolder, setParent } from '../arranging'
import { copyElement } from '../clipboard'
import { makeSource, muteElement, removeElement, toggleSolo } from '../commands'
import { duplicateElement } from '../duplicate'
import { putIntoLayer } from '../layers'
import { splitLetters } from '../letters'
import { edit, setStudio, shotNow, useStudio } from '../store'
import { cx, menuContent, menuItem } from '../ui'
import { frameSelection } from '../view/frame'
import { MARK_COLOURS } from './marks'

function Sub({ name, children }: { name: string; children: ReactNode }) {
  return (
    <ContextMenu.Sub>
      <ContextMenu.SubTrigger className={cx(menuItem, 'justify-between data-[state=open]:bg-fern')}>
        {name} <ChevronRight size={12} strokeWidth={1.5} />
      </ContextMenu.SubTrigger>
      <ContextMenu.Portal>
        <ContextMenu.SubContent className={cx(menuContent, 'max-h-80 overflow-auto')} collisionPadding={8}>
          {children}
        </ContextMenu.SubContent>
      </ContextMenu.Portal>
    </ContextMenu.Sub>
  )
}
const Tick = ({ on }: { on: boolean }) => (on ? <Check size={12} strokeWidth={1.5} className="ml-auto" /> : null)
const SHOWN = [
  ['full', 'As rendered'],
  ['wire', 'Wires'],
  ['box', 'Its box'],
] as const

/** What can be done with an element of the list. */
export function RowMenu({ element: e, group, rename }: { element: ElementDoc; group: Group; rename: () => void }) {
  const object = group === 'objects' ? (e as ObjectDoc) : null
  const solo = useStudio((s) => s.solo.has(e.id))
  const set = (label: string, recipe: (x: ElementDoc) => void) =>
    edit(label, (s) => {
      const found = findElement(s, e.id)
      if (found) recipe(found.element)
    })
  return (
    <ContextMenu.Portal>
      <ContextMenu.Content className={menuContent} collisionPadding={8}>
        {object && (
          <>
            <ContextMenu.Item className={menuItem} onSelect={() => makeSource(e.id)}>
              Make it the source
            </ContextMenu.Item>
            <ContextMenu.Item
              className={menuItem}
              onSelect={() =>
                edit(`${e.name}, ${object.seen === false ? 'seen' : 'hidden'}`, (s) => {
                  const o = s.objects.find((x) => x.id === e.id)
                  if (o) o.seen = object.seen === false
                })
              }
            >
              {object.seen === false ? 'Let the camera see it' : 'Hide it from the camera'}
            </ContextMenu.Item>
            <ContextMenu.Item
              className={menuItem}
              onSelect={() =>
                edit(`${e.name} as a collider`, (s) => {
                  const o = s.objects.find((x) => x.id === e.id)
                  if (o) o.roles.collider = !o.roles.collider
                })
              }
            >
              {object.roles.collider ? 'Let particles pass' : 'Make it a collider'}
            </ContextMenu.Item>
            <Sub name="Parent">
              {[{ id: null, name: 'nothing' }, ...shotNow().objects.filter((o) => o.id !== e.id)].map((o) => (
                <ContextMenu.Item key={o.id ?? ''} className={menuItem} onSelect={() => setParent(e.id, o.id)}>
                  {o.name} <Tick on={object.parent === o.id} />
                </ContextMenu.Item>
              ))}
            </Sub>
            {(object.shape.kind === 'anchor' || object.shape.kind === 'group') && (
              <ContextMenu.Item className={menuItem} onSelect={() => setStudio({ dialog: 'tracked' })}>
                Plane and scale of points …
              </ContextMenu.Item>
            )}
            {object.shape.kind === 'text' && (
              <ContextMenu.Item className={menuItem} onSelect={() => void splitLetters(e.id)}>
                One object a letter
              </ContextMenu.Item>
            )}
            <Sub name="The View shows">
              {SHOWN.map(([value, label]) => (
                <ContextMenu.Item
                  key={value}
                  className={menuItem}
                  onSelect={() => set(`${e.name} shown as ${label.toLowerCase()}`, (x) => void ((x as ObjectDoc).shown = value))}
                >
                  {label} <Tick on={object.shown === value} />
                </ContextMenu.Item>
              ))}
            </Sub>
            <ContextMenu.Separator className="my-1 h-px bg-bark" />
          </>
        )}
        <ContextMenu.Item className={menuItem} onSelect={frameSelection}>
          Frame <span className="ml-auto text-moss">F</span>
        </ContextMenu.Item>
        <ContextMenu.Item className={menuItem} onSelect={() => muteElement(e.id)}>
          {e.muted ? 'Switch on' : 'Mute'} <span className="ml-auto text-moss">M</span>
        </ContextMenu.Item>
        {group !== 'cameras' && group !== 'masks' && group !== 'layers' && group !== 'controls' && (
          <ContextMenu.Item className={menuItem} onSelect={() => toggleSolo(e.id)}>
            {solo ? 'No longer alone' : 'Look at it alone'} <span className="ml-auto text-moss">A</span>
          </ContextMenu.Item>
        )}
        <ContextMenu.Separator className="my-1 h-px bg-bark" />
        <Sub name="Folder">
          {shotNow().folders.map((f) => (
            <ContextMenu.Item key={f.id} className={menuItem} onSelect={() => putIntoFolder(e.id, f.id)}>
              {f.name} <Tick on={e.folder === f.id} />
            </ContextMenu.Item>
          ))}
          <ContextMenu.Item className={menuItem} onSelect={() => putIntoFolder(e.id, 'new')}>
            A new folder
          </ContextMenu.Item>
          {e.folder && (
            <ContextMenu.Item className={menuItem} onSelect={() => putIntoFolder(e.id, null)}>
              None
            </ContextMenu.Item>
          )}
        </Sub>
        {(group === 'objects' || group === 'systems' || group === 'gases' || group === 'glows') && (
          <Sub name="Layer">
            {shotNow().layers.map((l, i) => (
              <ContextMenu.Item key={l.id} className={menuItem} onSelect={() => putIntoLayer(e.id, i ? l.id : null)}>
                {l.name} <Tick on={layerOf(shotNow(), e as { layer?: string | null }) === l.id} />
              </ContextMenu.Item>
            ))}
            <ContextMenu.Item className={menuItem} onSelect={() => putIntoLayer(e.id, 'new')}>
              A new layer
            </ContextMenu.Item>
          </Sub>
        )}
        <Sub name="Mark">
          {MARKS.map((m) => (
            <ContextMenu.Item key={m} className={menuItem} onSelect={() => set(`${e.name} marked`, (x) => void (x.mark = m))}>
              <span className="size-2.5 rounded-full" style={{ background: MARK_COLOURS[m] }} /> {m} <Tick on={e.mark === m} />
            </ContextMenu.Item>
          ))}
          <ContextMenu.Item className={menuItem} onSelect={() => set(`mark of ${e.name} taken away`, (x) => void delete x.mark)}>
            none
          </ContextMenu.Item>
        </Sub>
        <ContextMenu.Separator className="my-1 h-px bg-bark" />
        <ContextMenu.Item className={menuItem} onSelect={rename}>
          Rename
        </ContextMenu.Item>
        <ContextMenu.Item className={menuItem} onSelect={() => void copyElement(e.id)}>
          Copy <span className="ml-auto text-moss">Ctrl C</span>
        </ContextMenu.Item>
        <ContextMenu.Item className={menuItem} onSelect={() => duplicateElement(e.id)}>
          Duplicate <span className="ml-auto text-moss">D</span>
        </ContextMenu.Item>
        <ContextMenu.Item className={menuItem} onSelect={() => duplicateElement(e.id, 'same')}>
          Duplicate with its seeds
        </ContextMenu.Item>
        {(group === 'objects' || group === 'lights' || group === 'cameras') && (
          <ContextMenu.Item className={menuItem} onSelect={() => duplicateElement(e.id, 'companion')}>
            Duplicate as a companion
          </ContextMenu.Item>
        )}
        <ContextMenu.Item className={menuItem} onSelect={() => removeElement(e.id)}>
          Remove <span className="ml-auto text-moss">Delete</span>
        </ContextMenu.Item>
      </ContextMenu.Content>
    </ContextMenu.Portal>
  )
}

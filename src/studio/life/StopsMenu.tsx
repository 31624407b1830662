'use client'
import { Check, Ellipsis } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { type Curve, type Joining, joinedBy, joiningOf, type Ramp, spreadEvenly, turnedAround } from '../../shot'
import { IconButton, Menu, menuContent, menuItem } from '../ui'

const JOININGS: { value: Joining; label: string }[] = [
  { value: 'straight', label: 'Straight between stops' },
  { value: 'smooth', label: 'Smooth between stops' },
  { value: 'steps', label: 'In steps' },
]
/** What was copied last: colours go to colours, curves to curves. */
const copied: { ramp: Ramp | null; curve: Curve | null } = { ramp: null, curve: null }
const isRamp = (r: Ramp | Curve): r is Ramp => 'stops' in r

/** What can be done with all stops of a ramp or curve at once. `keepsFirst`: its first point stays where it is. */
export function StopsMenu<R extends Ramp | Curve>({
  name,
  value,
  onChange,
  keepsFirst,
}: {
  name: string
  value: R
  onChange: (value: R, label: string) => void
  keepsFirst?: boolean
}) {
  const steps = !!value.steps
  const moved = (how: <S extends { at: number }>(stops: readonly S[], steps: boolean) => S[]): R =>
    (isRamp(value) ? { ...value, stops: how(value.stops, steps) } : { ...value, points: how((value as Curve).points, steps) }) as R
  const ready = isRamp(value) ? copied.ramp : copied.curve
  return (
    <Menu>
      <DropdownMenu.Trigger asChild>
        <IconButton name={`More for the ${name}`}>
          <Ellipsis size={15} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={menuContent} align="end" collisionPadding={8}>
          <DropdownMenu.RadioGroup value={joiningOf(value)}>
            {JOININGS.map((j) => (
              <DropdownMenu.RadioItem
                key={j.value}
                value={j.value}
                className={menuItem}
                onSelect={() => onChange(joinedBy(value, j.value), `joining of the ${name}`)}
              >
                <span className="w-4">{joiningOf(value) === j.value && <Check size={13} strokeWidth={1.5} />}</span>
                {j.label}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
          <DropdownMenu.Separator className="my-1 border-bark border-t" />
          {!keepsFirst && (
            <>
              <DropdownMenu.Item className={menuItem} onSelect={() => onChange(moved(spreadEvenly), `even ${name}`)}>
                <span className="w-4" /> Spread evenly
              </DropdownMenu.Item>
              <DropdownMenu.Item className={menuItem} onSelect={() => onChange(moved(turnedAround), `turned ${name}`)}>
                <span className="w-4" /> Turn around
              </DropdownMenu.Item>
            </>
          )}
          <DropdownMenu.Item
            className={menuItem}
            onSelect={() => {
              if (isRamp(value)) copied.ramp = structuredClone(value)
              else copied.curve = structuredClone(value as Curve)
            }}
          >
            <span className="w-4" /> Copy
          </DropdownMenu.Item>
          {!keepsFirst && (
            <DropdownMenu.Item
              className={menuItem}
              disabled={!ready}
              onSelect={() => ready && onChange(structuredClone(ready) as R, `pasted ${name}`)}
            >
              <span className="w-4" /> Paste
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
}

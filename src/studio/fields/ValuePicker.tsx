'use client'
import { fullName, shapeValues, values } from '../../acts'
import type { ObjectDoc, Shot, ValueRef } from '../../shot'
import { useShot } from '../store'
import { Select } from '../ui'

const PLACES = [
  { value: 'world.0', label: 'place X in the shot' },
  { value: 'world.1', label: 'place Y in the shot' },
  { value: 'world.2', label: 'place Z in the shot' },
  { value: 'distance', label: 'distance to …' },
]
const placed = (s: Shot) => [...s.objects, ...s.lights, ...s.cameras]
/** What a reference leads to, in words. */
export function refText(shot: Shot, ref: ValueRef | null): string {
  if (!ref) return 'nothing yet'
  const name = (id: string | undefined) =>
    [...placed(shot), ...shot.systems, ...shot.forces, ...shot.controls, ...shot.layers].find((e) => e.id === id)?.name ??
    'something that is gone'
  if (ref.value === 'distance') return `distance from ${name(ref.element)} to ${name(ref.to)}`
  const place = PLACES.find((p) => p.value === ref.value)
  if (place) return `${name(ref.element)}, ${place.label}`
  for (const v of values(shot)) if (v.record.element.id === ref.element && v.path === ref.value) return fullName(v)
  const object = shot.objects.find((o) => o.id === ref.element)
  const own = object && shapeValues(object).find((v) => v.path === ref.value)
  if (object && own) return `${object.name}, ${own.label}`
  return `${name(ref.element)}, a value that is gone`
}
interface Picks {
  label: string
  value: ValueRef | null
  onChange: (v: ValueRef | null) => void
}
/** Chooses an object, then one of the values of its shape. */
export function ShapeValuePicker({ label, value, onChange }: Picks) {
  const objects = useShot((s) => s.objects).filter((o) => shapeValues(o).length > 0)
  const of = (id: string) => shapeValues(objects.find((o) => o.id === id) as ObjectDoc).map((v) => ({ value: v.path, label: v.label }))
  const there = objects.some((o) => o.id === value?.element)
  return (
    <span className="flex min-w-0 flex-1 flex-col gap-1">
      <Select
        label={`${label}: object`}
        value={there ? (value?.element ?? '') : ''}
        options={[...(there ? [] : [{ value: '', label: 'Pick an object…' }]), ...objects.map((o) => ({ value: o.id, label: o.name }))]}
        onChange={(id) => id && onChange({ element: id, value: of(id)[0].value })}
      />
      {there && value && (
        <Select
          label={`${label}: value`}
          value={value.value}
          options={of(value.element)}
          onChange={(v) => onChange({ ...value, value: v })}
        />
      )}
    </span>
  )
}
/** Chooses an element, then one of its values, its place in the shot, or a distance from it. */
export function ValuePicker({ label, value, onChange }: Picks) {
  const shot = useShot((s) => s)
  const numbers = [...values(shot)].filter((v) => v.param.type === 'number' || v.param.type === 'vector')
  const withPlace = new Set(placed(shot).map((e) => e.id))
  const elements = [
    ...new Map([...shot.controls, ...placed(shot), ...numbers.map((v) => v.record.element)].map((e) => [e.id, e.name])),
  ].map(([id, name]) => ({ value: id, label: name }))
  const of = (id: string) => [
    ...numbers.filter((v) => v.record.element.id === id).map((v) => ({ value: v.path, label: v.label })),
    ...(withPlace.has(id) ? PLACES : []),
  ]
  const options = value ? of(value.element) : []
  return (
    <span className="flex min-w-0 flex-1 flex-col gap-1">
      <Select
        label={`${label}: element`}
        value={value?.element ?? ''}
        options={value ? elements : [{ value: '', label: 'Pick an element…' }, ...elements]}
        onChange={(id) => id && onChange({ element: id, value: of(id)[0]?.value ?? 'world.0' })}
      />
      {value && (
        <Select
          label={`${label}: value`}
          value={value.value}
          options={options}
          onChange={(v) =>
            onChange(
              v === 'distance'
                ? { element: value.element, value: v, to: placed(shot).find((e) => e.id !== value.element)?.id ?? value.element }
                : { element: value.element, value: v },
            )
          }
        />
      )}
      {value?.value === 'distance' && (
        <Select
          label={`${label}: other end`}
          value={value.to ?? ''}
          options={placed(shot)
            .filter((e) => e.id !== value.element)
            .map((e) => ({ value: e.id, label: e.name }))}
          onChange={(to) => onChange({ ...value, to })}
        />
      )}
    </span>
  )
}

'use client'
import { addSystem, chooseFiles } from '../commands'
import { useShot } from '../store'

/** What to do next in a shot without particles; gone as soon as there is a system or a gas, or something grows on an object or follows it. */
export function NextStep() {
  const empty = useShot((s) => s.systems.length === 0 && s.gases.length === 0 && s.objects.every((o) => !o.offspring.length))
  if (!empty) return null
  const button = 'rounded-md border border-twig bg-night px-2.5 py-1 hover:border-moss hover:bg-fern'
  return (
    <div
      className="absolute inset-x-0 top-[16%] mx-auto w-fit max-w-[80%] rounded-md bg-surround/80 px-4 py-3 text-center"
      data-handle="next"
    >
      <p className="mb-2 text-moss">No particles yet. Add a system, or import the object they should come from.</p>
      <p className="flex justify-center gap-2">
        <button type="button" className={button} onClick={() => addSystem()}>
          Add a system
        </button>
        <button type="button" className={button} onClick={chooseFiles}>
          Import a file …
        </button>
      </p>
    </div>
  )
}

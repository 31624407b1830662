import { FONTS } from '../acts'
import { newId, newSeed, type ObjectDoc } from '../shot'
import { messageOf } from './api'
import { newObject } from './create'
import { edit, select, shotNow } from './store'
import { toast } from './toast'

/** More letters than this in one text stay together: a list of objects must stay usable. */
const MOST_LETTERS = 120
/** A text becomes a group in its place with one text object a letter, each where it stood. */
export async function splitLetters(id: string): Promise<void> {
  const object = shotNow().objects.find((o) => o.id === id)
  if (object?.shape.kind !== 'text') {
    toast('Select a text to make one object a letter of it.', true)
    return
  }
  const shape = object.shape
  try {
    // The reader of fonts is only loaded when it is needed.
    const { letterPlaces, readFont } = await import('../formats/font/text')
    const known = FONTS.find((f) => f.id === shape.font)
    const answer = await fetch(known ? `/fonts/${known.file}` : `/api/assets/${shape.font}`)
    if (!answer.ok) throw new Error('the font of this text cannot be loaded; choose another one')
    const font = readFont(new Uint8Array(await answer.arrayBuffer()))
    if (!font.ok) throw new Error(font.problem.message)
    const letters = letterPlaces(font.value, shape)
    if (!letters.length || letters.length > MOST_LETTERS)
      throw new Error(
        letters.length
          ? `${letters.length} letters would be too many objects; at most ${MOST_LETTERS} are made`
          : 'this text has no letters',
      )
    edit(`one object a letter of ${object.name}`, (s) => {
      const at = s.objects.findIndex((o) => o.id === id)
      // Not the draft: that cannot be cloned.
      const old = object
      const group: ObjectDoc = {
        ...newObject(s, old.name, { kind: 'group' }),
        id: old.id,
        name: old.name,
        seed: old.seed,
        parent: old.parent,
        place: old.place,
        rotate: old.rotate,
        scale: old.scale,
        ...(old.folder ? { folder: old.folder } : {}),
        ...(old.mark ? { mark: old.mark } : {}),
      }
      const made = letters.map(
        (l): ObjectDoc => ({
          ...structuredClone({ ...old, regions: [] }),
          id: newId('object'),
          name: l.char,
          seed: newSeed(),
          shape: { ...shape, text: l.char, align: 'left' },
          parent: old.id,
          place: [round(l.x), round(l.y), 0],
          rotate: [0, 0, 0],
          scale: [1, 1, 1],
          regions: old.regions.map((r) => ({
            ...structuredClone(r),
            acts: structuredClone(r.acts).map((a) => ({ ...a, id: newId(a.kind) })),
          })),
          reshape: structuredClone(old.reshape).map((a) => ({ ...a, id: newId(a.kind) })),
        }),
      )
      s.objects.splice(at, 1, group, ...made)
    })
    select(id)
    toast(
      `${letters.length} letters, each an object; births that started from ${object.name} start from its place now: choose a letter for them`,
    )
  } catch (error) {
    toast(messageOf(error), true)
  }
}
const round = (v: number): number => Math.round(v * 1e6) / 1e6

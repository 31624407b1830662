import { findElement } from '../shot'
import { newLayer } from './create'
import { edit, select, shotNow } from './store'
import { toast } from './toast'

const MOST_LAYERS = 16
/** An empty layer over everything. */
export function addLayer(): string | null {
  if (shotNow().layers.length >= MOST_LAYERS) {
    toast(`A shot has at most ${MOST_LAYERS} layers, the picture among them.`, true)
    return null
  }
  const made = newLayer(shotNow())
  edit(`a new ${made.name}`, (s) => void s.layers.push(made))
  select(made.id)
  return made.id
}
/** Draws an element in another layer, a new one, or the picture itself. */
export function putIntoLayer(id: string, layer: string | 'new' | null): void {
  const found = findElement(shotNow(), id)
  if (!found) return
  const { group, index, element } = found
  if (group !== 'objects' && group !== 'systems' && group !== 'gases' && group !== 'glows') return
  const fresh = layer === 'new' ? newLayer(shotNow()) : null
  if (fresh && shotNow().layers.length >= MOST_LAYERS) {
    toast(`A shot has at most ${MOST_LAYERS} layers, the picture among them.`, true)
    return
  }
  const name = fresh?.name ?? shotNow().layers.find((l) => l.id === layer)?.name
  edit(`${element.name} ${name ? `in ${name}` : 'in the picture itself'}`, (s) => {
    if (fresh) s.layers.push(fresh)
    s[group][index].layer = fresh?.id ?? layer
  })
}

import { number, type Params } from '../../shot'
import type { Phase } from '../reader'

/** What eddies are made of, of every act that has some: their size in metres and how often they are renewed, 1/s. */
export const eddyParams = (eddy: number, renewal: number) =>
  ({
    eddy: number({
      label: 'Eddy',
      unit: 'm',
      default: eddy,
      min: 0.001,
      soft: [0.05, 5],
      animated: true,
      help: 'Size of the coarsest eddies.',
    }),
    octaves: number({
      label: 'Detail',
      unit: '',
      default: 3,
      min: 1,
      max: 6,
      integer: true,
      help: 'Finer eddies on top, each half the size and half as strong.',
    }),
    renewal: number({
      label: 'Renewal',
      unit: '1/s',
      default: renewal,
      min: 0,
      soft: [0, 5],
      animated: true,
      integrated: true,
      help: 'How often eddies give way to new ones.',
    }),
  }) satisfies Params
interface Renews {
  integral(name: 'renewal', t: number): number
  looped(name: 'renewal', t: number): Phase
}
/** How far eddies have renewed themselves by t (s); `faster`: so many times a second more, 1/s. In a loop also how far until it begins again. */
export function renewed(p: Renews, t: number, faster = 0): { phase: number; until?: number } {
  const { seconds } = p.looped('renewal', t)
  const at = (s: number) => p.integral('renewal', s) + faster * s
  return seconds ? { phase: at(t), until: at(seconds) } : { phase: at(t) }
}

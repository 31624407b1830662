import { number, toggle } from '../../shot'
import { defineRegion, say, word } from '../define'
import { HOW, howParams } from './common'

export const picture = defineRegion({
  kind: 'picture',
  title: 'Picture',
  help: 'By the brightness of the file’s own texture.',
  params: {
    from: number({
      label: 'From',
      unit: '%',
      default: 20,
      soft: [0, 100],
      animated: true,
      help: 'Nothing where the texture is darker than this.',
    }),
    to: number({ label: 'To', unit: '%', default: 80, soft: [0, 100], animated: true, help: 'All of it where it is brighter than this.' }),
    dark: toggle({ label: 'Dark parts', default: false, help: 'Takes the dark parts instead.' }),
    ...howParams,
  },
  sentence: (p) =>
    say`${word(HOW[p.choice('how')], 'how')} where its texture is ${word(p.on('dark') ? 'dark' : 'bright', 'dark')}, from ${'from'} to ${'to'}.`,
  amount(p, site) {
    const { brightness } = site
    if (!brightness) return () => 0
    const from = p.number('from', site.t) / 100,
      to = p.number('to', site.t) / 100,
      dark = p.on('dark')
    return (v) => {
      const b = brightness(v)
      const a = from === to ? (b >= to ? 1 : 0) : Math.min(1, Math.max(0, (b - from) / (to - from)))
      return dark ? 1 - a : a
    }
  },
})

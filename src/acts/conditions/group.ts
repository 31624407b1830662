import { defineCondition, say, word } from '../define'
import { holdsParam, joinParam } from './common'

/** Conditions of its own, as one. */
export const whenGroup = defineCondition({
  kind: 'whenGroup',
  title: 'Group of conditions',
  help: 'Several conditions that count as one: all of them, or any.',
  synonyms: ['and', 'or', 'nested', 'logic'],
  groups: true,
  params: { join: { ...joinParam, default: 'any' }, holds: holdsParam },
  sentence: (p) =>
    say`${word(p.choice('holds') === 'false' ? 'Not' : 'If', 'holds')}${word(p.choice('join') === 'any' ? 'any of these' : 'all of these', 'join')}.`,
})

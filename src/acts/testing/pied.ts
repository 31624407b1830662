import { choice, ref } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from '../forces/share'

/** An act that nobody else knows, whose references have names that nobody else uses: for tests of what goes by declarations alone. */
export const pied = defineForce({
  kind: 'pied',
  title: 'Piper',
  help: 'Leads particles after a piper.',
  params: {
    piper: ref({ label: 'Piper', to: 'object', default: null, empty: 'nobody', help: 'Whom they follow.' }),
    crowd: ref({ label: 'Crowd', to: 'system', default: null, empty: 'its own', gone: 'mute', help: 'With whom.' }),
    stops: { type: 'refs', label: 'Stops', to: 'object', default: [], empty: 'nowhere', help: 'Where they rest.' },
    step: choice({ label: 'Step', default: 'walk', options: [{ value: 'walk', label: 'walk' }], help: 'How they go.' }),
    ...shareParams,
  },
  sentence: () => say`Follows ${'piper'}.`,
  encode: () => {},
})

import { expect, it } from 'vitest'
import { withFewerLooks } from './mirrorMaker'

it('what is mirrored is made with a quarter of the looks, each a level coarser, and says when it cannot be', () => {
  const own = '#define GGX_SAMPLES 256u\nfor (;;) {\n float lod = max( log2( d ) + lodBias, 0.0 );\n}'
  expect(withFewerLooks(own)).toBe('#define GGX_SAMPLES 64u\nfor (;;) {\n float lod = max( log2( d ) + lodBias + 1.0000, 0.0 );\n}')
  expect(withFewerLooks(own.replace('256u', '64u'))).toContain('lodBias + 0.0000')
  expect(() => withFewerLooks(own.replace('lodBias', 'another'))).toThrow('three.js')
  expect(() => withFewerLooks('void main() {}')).toThrow('three.js')
})

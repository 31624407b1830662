import * as THREE from 'three'
import { expect, it } from 'vitest'
import { leaveOut } from './leaveOut'

it('makes a material again when something is left out or comes back, and not otherwise', () => {
  const m = new THREE.ShaderMaterial({ defines: { TUFT: 1 } })
  const made = () => m.version
  const first = made()
  leaveOut(m, { NO_MAPS: false, NO_FOG: false })
  expect([m.defines, made()]).toEqual([{ TUFT: 1 }, first])
  leaveOut(m, { NO_MAPS: true, NO_FOG: false })
  expect(m.defines).toEqual({ TUFT: 1, NO_MAPS: 1 })
  const second = made()
  expect(second).toBeGreaterThan(first)
  leaveOut(m, { NO_MAPS: true, NO_FOG: false })
  expect(made()).toBe(second)
  leaveOut(m, { NO_MAPS: false, NO_FOG: false })
  expect(m.defines).toEqual({ TUFT: 1 })
  expect(made()).toBeGreaterThan(second)
})

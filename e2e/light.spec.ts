import { readFileSync } from 'node:fs'
import { expect } from '@playwright/test'
import { copyShot, dropAll, exact, goTo, loseContext, openShot, picture, stored, type, upTo } from './helpers'
import { test } from './lasting'

test('a picture of light lights from all around, is turned and no longer seen; a light follows the first of the sparks', async ({
  page,
}) => {
  const id = await copyShot('Lit', (d) => {
    upTo(16)(d)
    for (const o of d.objects) o.seen = o.name === 'Anvil' || o.name === 'Floor'
    d.lights = d.lights.filter((l) => l.kind === 'point').slice(0, 1)
    Object.assign(d.lights[0], { name: 'Torch', strength: 4, place: [0, 0.3, 0] })
  })
  await openShot(page, id)
  await goTo(page, 12)
  const before = await picture(page)
  // Twice as wide as high, HDR.
  await dropAll(page, [['quay night.hdr', new Uint8Array(readFileSync('src/formats/image/samples/quay_night.hdr'))]])
  await expect(page.getByText('quay night: 128 × 64 pixels of light, all around; it stands for the sky and the even light.')).toBeVisible()
  await expect(page.getByRole('treeitem', { name: 'quay night' })).toBeVisible()
  const lit = await picture(page)
  expect(lit.equals(before)).toBe(false)
  // What is mirrored was drawn once; with another context it is drawn again.
  await loseContext(page)
  await exact(page, 12)
  expect((await picture(page)).equals(lit)).toBe(true)
  await page.getByRole('button', { name: /^From all around/ }).click()
  await type(page, 'Turn', '120')
  await expect.poll(async () => (await picture(page)).equals(lit)).toBe(false)
  const turned = await picture(page)
  await page.getByRole('switch', { name: 'Seen' }).click()
  await expect.poll(async () => (await picture(page)).equals(turned)).toBe(false)
  const light = async (name: string) => (await stored(id)).lights.find((l) => l.name === name)
  await expect.poll(() => light('quay night')).toMatchObject({ kind: 'around', turn: 120, seen: false, strength: 1 })
  // Nothing was simulated again.
  await expect(page.getByText('17 of 17')).toBeVisible()
  const unseen = await picture(page)
  await page.getByRole('treeitem', { name: 'Torch' }).click()
  await page.getByRole('button', { name: /^Hangs at/ }).click()
  await page.getByRole('combobox', { name: 'Follows' }).click()
  await page.getByRole('option', { name: 'Sparks' }).click()
  await page.getByRole('combobox', { name: 'At' }).click()
  await page.getByRole('option', { name: 'the first born' }).click()
  await expect(page.getByText('Where Sparks has nobody alive, it gives no light.')).toBeVisible()
  await expect.poll(() => light('Torch')).toMatchObject({ follows: expect.any(String), which: 'oldest' })
  await exact(page, 12)
  expect((await picture(page)).equals(unseen)).toBe(false)
  // It is kept from one object, and a glow is stuck to it.
  const whole = await picture(page)
  await page.getByRole('combobox', { name: 'Otherwise for' }).click()
  await page.getByRole('option', { name: 'Anvil' }).click()
  await expect.poll(() => light('Torch')).toMatchObject({ shares: [{ of: expect.any(String), share: 0, shadow: true }] })
  await exact(page, 12)
  expect((await picture(page)).equals(whole)).toBe(false)
  await page.getByRole('button', { name: 'Anvil as all others' }).click()
  await expect.poll(async () => (await picture(page)).equals(whole)).toBe(true)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByRole('menuitem', { name: /^Glow/ }).click()
  await expect(page.getByRole('button', { name: 'Stuck to Torch.' })).toBeVisible()
  await page.getByRole('button', { name: 'No rays.' }).click()
  await type(page, 'Rays', '6')
  await exact(page, 12)
  await expect.poll(async () => (await picture(page)).equals(whole)).toBe(false)
  await expect.poll(async () => (await stored(id)).glows).toMatchObject([{ kind: 'disc', rays: 6, follows: (await light('Torch'))?.id }])
})

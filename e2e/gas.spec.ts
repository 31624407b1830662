import { expect, test } from '@playwright/test'
import { brightness, copyShot, drop, exact, goTo, type lighter, openShot, picture, stored, TRIANGLES } from './helpers'

interface GasDoc {
  id: string
  feeds: { kind: string; object?: string; system?: string }[]
  burning: { kind: string }[]
  motion: { kind: string; gas?: string }[]
  tones: Record<string, { top: number; curve: { points: { at: number; v: number }[] } }>
}
const gases = (d: Record<string, unknown>): GasDoc[] => d.gases as GasDoc[]
const empty = (d: Parameters<typeof lighter>[0]) => {
  d.objects = []
  d.systems = []
  Object.assign(d, { forces: [], assets: [], surroundings: { colour: [0, 0, 0], light: [0.5, 0.5, 0.5] } })
  for (const layer of d.layers) layer.finish = []
}

test('smoke from a mesh that was dropped in, in four actions', async ({ page }) => {
  const id = await copyShot('Smoke of a tent', empty)
  await openShot(page, id)
  await goTo(page, 24)
  const before = await brightness(page, await picture(page))
  // 1: the file; 2 to 4: the plus, what is wanted, Enter. What was dropped in is selected, and feeds it.
  await drop(page, 'tent.obj', TRIANGLES(0.3))
  await expect(page.getByRole('treeitem', { name: /tent/ })).toHaveAttribute('aria-selected', 'true')
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByLabel('Find what to add').fill('gas')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('treeitem', { name: /Smoke/ })).toHaveAttribute('aria-selected', 'true')
  await exact(page, 24)
  expect(await brightness(page, await picture(page))).toBeGreaterThan(before + 1)
  const [gas] = gases(await stored(id))
  expect(gas.feeds[0].kind).toBe('fromObject')
})

import { expect } from '@playwright/test'
import { brightness, copyShot, drop, exact, goTo, lighter, openShot, picture, stored, TRIANGLES, type } from './helpers'
import { test } from './lasting'

interface GasDoc {
  id: string
  feeds: { kind: string; object?: string; system?: string }[]
  burning: { kind: string }[]
  motion: { kind: string }[]
  look: { kind: string; tint?: string }[]
  tones: Record<string, { top: number; curve: { points: { at: number; v: number }[] } }>
}
const gases = async (id: string): Promise<GasDoc[]> => (await stored(id)).gases as GasDoc[]
/** A short shot in even light. */
const short = (d: Parameters<typeof lighter>[0]) => {
  for (const layer of d.layers) layer.finish = []
  Object.assign(d, { forces: [], range: { first: 0, last: 24 }, surroundings: { colour: [0, 0, 0], light: [0.5, 0.5, 0.5] } })
}
const empty = (d: Parameters<typeof lighter>[0]) => {
  short(d)
  d.objects = []
  d.systems = []
  // What comes behind the frame that is looked at is computed as well, and takes the time of other journeys.
  Object.assign(d, { assets: [], range: { first: 0, last: 18 }, opens: 16 })
}

test('smoke from a mesh that was dropped in, in four actions, and wind parts it', async ({ page }) => {
  const id = await copyShot('Smoke of a tent', empty)
  await openShot(page, id)
  await exact(page, 16)
  const before = await brightness(page, await picture(page))
  // 1: the file; 2 to 4: the plus, what is wanted, Enter. What was dropped in is selected, and feeds it.
  await drop(page, 'tent.obj', TRIANGLES(0.3))
  await expect(page.getByRole('treeitem', { name: /tent/ })).toHaveAttribute('aria-selected', 'true')
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByLabel('Find what to add').fill('gas')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('treeitem', { name: /^Smoke/ })).toHaveAttribute('aria-selected', 'true')
  await exact(page, 16)
  expect(await brightness(page, await picture(page))).toBeGreaterThan(before + 0.5)
  await expect(page.getByText(/voxels in use/)).toBeVisible()
  // Coarser from here on: all of it is computed for each change.
  await page.getByRole('button', { name: /^Grows with it/ }).click()
  await type(page, 'Voxel', '6 cm')
  await exact(page, 16)
  const smoke = await picture(page)
  // Wind is a card among its motion, with the limits of any force.
  await page.getByRole('button', { name: 'Add to the motion' }).click()
  await page.getByLabel(/^Find in/).fill('wind')
  await page.keyboard.press('Enter')
  await type(page, 'Speed', '6', 'Wind')
  await exact(page, 16)
  const blown = await picture(page)
  expect(blown.equals(smoke)).toBe(false)
  const [gas] = await gases(id)
  expect(gas.feeds[0].kind).toBe('fromObject')
  await expect.poll(async () => (await gases(id))[0].motion.map((m) => m.kind)).toContain('wind')
  // What it holds on a plane, and how it flows.
  await page.getByRole('button', { name: 'Show the flow of the gas' }).click()
  await page.getByRole('menuitem', { name: 'Slice by what it holds' }).click()
  await expect(page.getByTestId('gas-slice')).toHaveAttribute('data-as', 'slice of density')
  await expect(page.getByRole('img', { name: /^Density of Smoke on a plane, up to (0\.\d*[1-9]|[1-9])/ })).toBeVisible()
  await page.getByRole('tab', { name: /^Heat/ }).click()
  await expect(page.getByRole('img', { name: /^Heat of Smoke on a plane, up to [\d.,]+ K/ })).toBeVisible()
  await page.getByRole('button', { name: /^Flow of the gas/ }).click()
  await page.getByRole('menuitem', { name: 'Arrows on a plane' }).click()
  await expect(page.getByRole('img', { name: /^Velocity of Smoke, up to \d[\d.]* m\/s/ })).toBeVisible()
  await page.getByRole('button', { name: /^Flow of the gas/ }).click()
  await page.getByRole('menuitem', { name: 'Off' }).click()
  // Detail is for renders until it is asked for in the View.
  await page.getByRole('button', { name: /^No detail/ }).click()
  await type(page, 'Detail', '2')
  await expect(page.getByTestId('quality')).toContainText('As rendered, without detail')
  await page.getByRole('combobox', { name: 'Shown' }).click()
  await page.getByRole('option', { name: 'in the View too' }).click()
  await exact(page, 16)
  await expect(page.getByTestId('quality')).not.toContainText('without detail')
  expect((await picture(page)).equals(blown)).toBe(false)
})

test('fire from a system; a curve drawn on the histogram strip runs nothing again', async ({ page }) => {
  const id = await copyShot('Fire of sparks', (d) => {
    lighter(d)
    short(d)
    d.systems = d.systems.slice(0, 1)
    d.systems[0].birth = d.systems[0].birth.slice(0, 1)
    d.systems[0].birth[0].count = 60
  })
  await openShot(page, id)
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByLabel('Find what to add').fill('gas')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await gases(id))[0]?.feeds[0]?.kind).toBe('fromParticles')
  // Coarser: every frame is computed here.
  await page.getByRole('button', { name: /^Grows with it/ }).click()
  await type(page, 'Voxel', '8 cm')
  await page.getByRole('button', { name: 'Add burning' }).click()
  await page.getByRole('menuitem', { name: /^Burns/ }).click()
  await expect.poll(async () => (await gases(id))[0].burning.map((b) => b.kind)).toEqual(['burn'])
  await page.getByRole('button', { name: 'Open From particles' }).click()
  await page.getByRole('combobox', { name: 'Fuel' }).first().click()
  await page.getByRole('option', { name: 'adds', exact: true }).click()
  await page.getByRole('button', { name: 'Add to the look' }).click()
  await page.getByRole('menuitem', { name: /^Glows/ }).click()
  await goTo(page, 10)
  await page.getByRole('tab', { name: /^Heat/ }).click()
  const heat = Number((await page.getByRole('tab', { name: /^Heat/ }).innerText()).replace(/.* to ([\d,]+).*/s, '$1').replace(',', ''))
  expect(heat).toBeGreaterThan(20)
  // The curve over density: a click makes a point, and what is there is drawn anew without being computed again.
  await page.getByRole('tab', { name: /^Density/ }).click()
  await expect(page.getByText('25 of 25')).toBeVisible({ timeout: 90000 })
  const box = await page.getByRole('img', { name: /holds each value of density/ }).boundingBox()
  if (!box) throw new Error('no strip')
  await page.mouse.click(box.x + box.width * 0.4, box.y + 20)
  await expect.poll(async () => (await gases(id))[0].tones.density.curve.points.length).toBe(3)
  await expect(page.getByText('25 of 25')).toBeVisible()
  await type(page, 'Stop value', '0.9')
  await expect.poll(async () => (await gases(id))[0].tones.density.curve.points[2].v).toBe(0.9)
  // Nothing stays nothing: the point at zero does not move.
  await page.getByRole('button', { name: /^Point 1 at 0/ }).press('Delete')
  expect((await gases(id))[0].tones.density.curve.points).toHaveLength(3)
  await exact(page, 10)
  // A dye has its tab once something brings it, and colours the smoke by its ramp; that runs nothing again.
  await expect(page.getByRole('tab', { name: /^Dye/ })).toHaveCount(0)
  await page.getByRole('button', { name: 'Open From particles' }).click()
  await page.getByRole('combobox', { name: 'Dye A' }).click()
  await page.getByRole('option', { name: 'at least' }).click()
  await expect(page.getByText('25 of 25')).toBeVisible({ timeout: 90000 })
  await expect(page.getByRole('tab', { name: /^Dye A\s*0 to (0\.\d*[1-9]|[1-9])/ })).toBeVisible()
  await page.getByRole('button', { name: 'Open Smoke' }).click()
  await page.getByRole('combobox', { name: 'Coloured' }).click()
  await page.getByRole('option', { name: 'by dye A' }).click()
  await expect.poll(async () => (await gases(id))[0].look[0].tint).toBe('dyeA')
  await expect(page.getByText('25 of 25')).toBeVisible()
})

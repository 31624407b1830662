import { expect, type Page } from '@playwright/test'
import { brightness, copyShot, drop, exact, goTo, lighter, openShot, picture, stored, TRIANGLES, type, unfold } from './helpers'
import { test } from './lasting'

const empty = (d: Parameters<typeof lighter>[0]) => {
  d.objects = []
  d.systems = []
  Object.assign(d, { forces: [], assets: [] })
  for (const layer of d.layers) layer.finish = []
}
/** What a hand does: each is one action of the person. */
class Hand {
  actions = 0
  constructor(private page: Page) {}
  async click(role: 'button' | 'menuitem', name: string | RegExp): Promise<void> {
    this.actions++
    await this.page.getByRole(role, { name }).first().click()
  }
  /** A card from a plus: its menu, what is looked for, and Enter. */
  async add(menu: string, query: string): Promise<void> {
    await this.click('button', menu)
    this.actions += 2
    await this.page.getByLabel(/^Find in/).fill(query)
    await this.page.keyboard.press('Enter')
  }
  async type(label: string, text: string, card?: string): Promise<void> {
    this.actions++
    await type(this.page, label, text, card)
  }
  async choose(label: string, option: string): Promise<void> {
    this.actions += 2
    await this.page.getByRole('combobox', { name: label }).first().click()
    await this.page.getByRole('option', { name: option, exact: true }).click()
  }
  async addElement(query: string): Promise<void> {
    await this.click('button', 'Add an element')
    this.actions += 2
    await this.page.getByLabel('Find what to add').fill(query)
    await this.page.keyboard.press('Enter')
  }
}

test('a firework is built by hand from an empty shot', async ({ page }) => {
  const id = await copyShot('Firework', empty)
  await openShot(page, id)
  const hand = new Hand(page)
  // The stars: a system without births, slowed down by the air, with tails.
  await hand.addElement('system')
  // At its first frame the shot is as dark as before, and says why until somebody goes on from there.
  const unborn = page.getByText('Nothing is born yet at 0 f.')
  await expect(unborn).toBeVisible()
  await hand.click('button', 'Open Steady rate')
  await hand.click('button', 'More for Steady rate')
  await hand.click('menuitem', 'Remove')
  await hand.add('Add to the whole life', 'drag')
  await hand.type('Halves in', '0.4')
  await hand.add('Add to the whole life', 'trail')
  await hand.type('Width', '4 cm')
  await hand.type('Brightness', '3')
  await hand.type('Life', '1.6')
  // The rocket, which bursts into them at its end.
  await hand.addElement('system')
  await hand.click('button', 'Open Steady rate')
  await hand.click('button', 'More for Steady rate')
  await hand.click('menuitem', 'Remove')
  await hand.click('button', 'Add a birth')
  await hand.click('menuitem', /^Burst/)
  await hand.type('Count', '1')
  await hand.type('Speed', '9')
  await hand.type('Spread', '5')
  await hand.type('Life', '0.9')
  await hand.add('Add to the whole life', 'shed')
  await hand.choose('System', 'Sparks')
  await hand.choose('When', 'at its end')
  await hand.type('Count', '120', 'Shed')
  await hand.type('Speed', '6', 'Shed')
  expect(hand.actions).toBeLessThan(40)
  await goTo(page, 40)
  await expect(unborn).toBeHidden()
  await expect.poll(async () => (await stored(id)).systems.map((s) => s.birth.length)).toEqual([0, 1])
  await expect(page.getByRole('treeitem', { name: /^Sparks 120/ })).toBeVisible()
  // Along the trail the strip has its own look; giving it one runs nothing again.
  await page.getByRole('treeitem', { name: /^Sparks 120/ }).click()
  await page.getByRole('button', { name: 'Open Trail' }).click()
  await page.getByRole('button', { name: 'Make a look' }).click()
  await expect(page.getByText('Along it, from head to end')).toBeVisible()
  await expect(page.getByText('73 of 73')).toBeVisible()
  await type(page, 'Stop at', '0.1')
  await expect(page.getByText('73 of 73')).toBeVisible()
  await exact(page, 40)
  await goTo(page, 0)
  await expect(unborn).toBeHidden()
})

test('a recipe starts from what is selected, at its size, and is one step back', async ({ page }) => {
  const id = await copyShot('Recipe', (d) => {
    lighter(d)
    d.systems = d.systems.slice(0, 1)
  })
  await openShot(page, id)
  await page.getByRole('treeitem', { name: /^Anvil/ }).click()
  await page.getByRole('button', { name: 'Add an element' }).click()
  await unfold(page.getByRole('menuitem', { name: 'Recipe' }))
  await page.getByRole('menuitem', { name: /^Rocket and burst/ }).click()
  await expect(page.getByRole('treeitem', { name: /^Rocket/ })).toBeVisible()
  await expect
    .poll(async () => (await stored(id)).systems.map((s) => [s.birth.length, s.birth[0]?.source ?? null]).slice(1))
    .toEqual([
      [1, 'anvil'],
      [0, null],
    ])
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await stored(id)).systems.length).toBe(1)
})

test('frost grows on a mesh that was dropped in, is scrubbed back by an amount, and stops before it is too much', async ({ page }) => {
  const id = await copyShot('Frost', empty)
  await openShot(page, id)
  await drop(page, 'tent.obj', TRIANGLES(1))
  await page.getByRole('treeitem', { name: /^tent/ }).click()
  await page.getByRole('button', { name: 'Add an element' }).click()
  await unfold(page.getByRole('menuitem', { name: 'Recipe' }))
  await page.getByRole('menuitem', { name: /^Frost/ }).click()
  await goTo(page, 60)
  const bare = await picture(page)
  await page.getByRole('button', { name: 'Open Growth' }).click()
  await page.getByRole('combobox', { name: 'Grows by' }).click()
  await page.getByRole('option', { name: 'an amount' }).click()
  await type(page, 'Grown', '0', 'Growth')
  await exact(page, 60)
  const nothing = await picture(page)
  expect(nothing.equals(bare)).toBe(false)
  expect(await brightness(page, nothing)).toBeLessThan(await brightness(page, bare))
  // How far forks reach along a line is drawn: a press adds a point, which stands in numbers below.
  await page.getByRole('combobox', { name: 'To the tip' }).click()
  await page.getByRole('option', { name: 'by a curve' }).click()
  const curve = page.getByRole('img', { name: 'Reach along' })
  await curve.scrollIntoViewIfNeeded()
  const box = await curve.boundingBox()
  if (!box) throw new Error('no curve')
  await page.mouse.click(box.x + box.width * 0.75, box.y + box.height * 0.5)
  await type(page, 'Reach along: its value', '150', 'Growth')
  await page.getByRole('button', { name: 'More for the reach along' }).click()
  await page.getByRole('menuitemradio', { name: 'In steps' }).click()
  await expect
    .poll(async () => (await stored(id)).objects.find((o) => o.name === 'tent')?.offspring)
    .toMatchObject([{ shorter: 'curve', along: { steps: true, points: [{ at: 0 }, { at: 0.35 }, { at: 1 }, { at: 0.75, v: 1.5 }] } }])
  // Far too much is cut off and named, whether it is seen or not.
  await type(page, 'Generations', '8', 'Growth')
  await type(page, 'Forks every', '0.001', 'Growth')
  await type(page, 'Fork reach', '100', 'Growth')
  await type(page, 'Detail', '0.0005', 'Growth')
  await expect(page.getByRole('treeitem', { name: /Growth of tent: it stopped at/ })).toBeVisible({ timeout: 60000 })
})

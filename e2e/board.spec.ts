import { expect } from '@playwright/test'
import { encode } from 'fast-png'
import { bare, brightness, copyShot, drop, fewer, goTo, lighter, openShot, pickOne, picture, stored, type } from './helpers'
import { test } from './lasting'

test('a sentence is edited in place; units and arithmetic are taken, nonsense is refused where it stands', async ({ page }) => {
  const id = await copyShot('Sentence', bare)
  await openShot(page, id)
  const eddy = page.getByRole('spinbutton', { name: 'Eddy' })
  await expect(eddy).toHaveText('0.4 m')
  await type(page, 'Eddy', '25cm')
  await expect(eddy).toHaveText('0.25 m')
  await type(page, 'Eddy', '3/4')
  await expect(eddy).toHaveText('0.75 m')
  await type(page, 'Eddy', '3 kg')
  await expect(page.getByRole('alert').filter({ hasText: '“kg” does not fit here; the unit is m' })).toBeVisible()
  await page.keyboard.press('Escape')
  await type(page, 'Eddy', '-1')
  await expect(page.getByRole('alert').filter({ hasText: 'must be at least' })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(eddy).toHaveText('0.75 m')
  // Choices within a sentence.
  await page.getByRole('combobox', { name: 'Mode' }).click()
  await page.getByRole('option', { name: 'carries' }).click()
  await expect(page.locator('[data-act=turbulence]')).toContainText('carries')
  await eddy.focus()
  await page.keyboard.press('ArrowUp')
  await expect(eddy).not.toHaveText('0.75 m')
})

test('a life in three phases is made by hand, counted while it plays, and undone', async ({ page }) => {
  const id = await copyShot('Phases', lighter)
  await openShot(page, id)
  const menu = async (item: string) => {
    await page.getByRole('button', { name: 'More for the phase Flying' }).click()
    await page.getByRole('menuitem', { name: item }).click()
  }
  await menu('Add a phase')
  await menu('Add a phase')
  const flying = page.getByRole('region', { name: 'Flying' })
  const second = page.getByRole('region', { name: 'Phase', exact: true })
  await flying.getByRole('button', { name: 'Open Turn to a phase' }).click()
  await type(page, 'After', '0.25')
  // Another condition from the menu, with limits among them, and what it joins by.
  await page.getByRole('button', { name: 'Condition of Turn to a phase' }).click()
  await page.getByLabel(/^Find in/).fill('some particles')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('region', { name: 'Condition: Some particles' })).toBeVisible()
  await page.getByRole('button', { name: 'Close Turn to a phase' }).click()
  await expect(flying.locator('[data-act=turnTo]')).toContainText('Goes to Phase when all of these hold')
  await expect(flying.locator('[data-act=turnTo]')).toContainText('After 0.25 s in the phase')
  await second.getByRole('button', { name: 'Add to Phase', exact: true }).click()
  await page.getByLabel(/^Find in/).fill('gravity')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  // Renamed where its name stands.
  await second.getByRole('button', { name: 'Phase', exact: true }).dblclick()
  await page.getByLabel('Name of the phase').fill('Falling')
  await page.keyboard.press('Enter')
  const falling = page.getByRole('region', { name: 'Falling' })
  await expect
    .poll(async () => (await stored(id)).systems[0].phases.map((p) => [p.name, p.movement.length, p.turns.length]))
    .toEqual([
      ['Flying', 1, 1],
      ['Falling', 1, 1],
      ['Phase 2', 0, 0],
    ])
  // About half of those older than a quarter of a second are counted there.
  await goTo(page, 40)
  await expect(falling.locator('header')).toContainText(/[1-9][\d,]* now/)
  // Tried out, a turn marks who would take it next.
  await flying.getByRole('button', { name: 'Open Turn to a phase' }).click()
  await flying.getByRole('button', { name: 'Try it' }).click()
  await expect(page.getByTestId('tried')).toContainText(/^\d+ of [1-9][\d,]* would take it in the next frame/)
  await expect(page.getByTestId('fits')).toBeVisible()
  await page.getByRole('button', { name: 'Close Turn to a phase' }).click()
  await expect(page.getByTestId('fits')).toBeHidden()
  // One that is picked shows its phases over its life, and whom it comes from.
  await page.getByRole('tab', { name: 'Particle' }).click()
  await page.getByRole('button', { name: 'Pick a particle' }).click()
  const panel = await pickOne(page)
  await expect(panel).toContainText('Parent')
  await expect(panel).toContainText('a birth of its system')
  await expect(panel.getByTestId('phaseBand').getByRole('button').first()).toHaveText('Flying')
  await page.getByRole('tab', { name: 'Life' }).click()
  // Deleting one asks where what led to it goes.
  await page.getByRole('button', { name: 'More for the phase Falling' }).click()
  await page.getByRole('menuitem', { name: 'goes to Phase 2' }).click()
  await expect(flying.locator('[data-act=turnTo]')).toContainText('Goes to Phase 2')
  for (let i = 0; i < 12; i++) await page.keyboard.press('Control+z')
  await expect.poll(async () => (await stored(id)).systems[0].phases.length).toBe(1)
})

test('cards open one at a time, are muted, copied, reordered and removed, and undo has all of it', async ({ page }) => {
  const id = await copyShot('Cards', bare)
  await openShot(page, id)
  await page.getByRole('button', { name: 'Open Gravity' }).click()
  await expect(page.getByRole('region', { name: 'Gravity' })).toBeVisible()
  await page.getByRole('button', { name: 'Open Drag' }).click()
  await expect(page.getByRole('region', { name: 'Gravity' })).toBeHidden()
  const drag = page.getByRole('region', { name: 'Drag' })
  await drag.getByRole('button', { name: 'Switch Drag off' }).click()
  await expect(drag.getByRole('button', { name: 'Switch Drag on' })).toBeVisible()
  await drag.getByRole('button', { name: 'More for Drag' }).click()
  await page.getByRole('menuitem', { name: 'Duplicate' }).click()
  await expect(page.getByText(/Saved \d/)).toBeVisible()
  await expect.poll(async () => (await stored(id)).systems[0].whole.movement.length).toBe(4)
  await page.keyboard.press('Escape')
  await page.locator('[data-act=gravity]').dragTo(page.locator('[data-act=drag]').nth(1))
  await expect
    .poll(async () => (await stored(id)).systems[0].whole.movement.map((a) => (a as { kind?: string }).kind))
    .toEqual(['drag', 'drag', 'gravity', 'wind'])
  await expect(page.getByRole('button', { name: 'Undo order of Drag' })).toBeVisible()
  // By the keyboard as well.
  await page.getByRole('button', { name: 'Open Wind' }).focus()
  await page.keyboard.press('Alt+ArrowUp')
  await expect
    .poll(async () => (await stored(id)).systems[0].whole.movement.map((a) => (a as { kind?: string }).kind))
    .toEqual(['drag', 'drag', 'wind', 'gravity'])
  await expect(page.getByRole('button', { name: 'Open Wind' })).toBeFocused()
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z')
  await expect
    .poll(async () => (await stored(id)).systems[0].whole.movement.map((a) => (a as { kind?: string; muted?: boolean }).muted ?? false))
    .toEqual([false, false, false])
})

test('a key is set with the drop, a second by changing the value later, and both stand in the list', async ({ page }) => {
  const id = await copyShot('Key', lighter)
  await openShot(page, id)
  await page.getByRole('button', { name: 'Open Gravity' }).click()
  await page.getByRole('button', { name: 'Set key of Strength' }).click()
  await goTo(page, 48)
  await type(page, 'Strength', '1')
  await page.getByRole('tab', { name: 'Keys' }).click()
  await page.getByRole('button', { name: 'Sparks, Gravity, strength' }).click()
  await page.getByRole('button', { name: 'Key before' }).click()
  await page.getByRole('combobox', { name: 'Ease of the key' }).click()
  await page.getByRole('option', { name: 'hold' }).click()
  await expect
    .poll(async () => (await stored(id)).systems[0].whole.movement[0].strength)
    .toEqual({
      keys: [
        { t: 0, v: 9.81, ease: 'hold' },
        { t: 2, v: 1, ease: 'smooth' },
      ],
    })
  await expect(page.getByTestId('frame')).toHaveText('0 f')
  await expect(page.getByText('Sparks, burst')).toBeVisible()
})

test('the life strip: stops are picked, moved, coloured, added and removed without simulating again', async ({ page }) => {
  const id = await copyShot('Strip', lighter)
  await openShot(page, id)
  await goTo(page, 30)
  const stops = page.getByRole('button', { name: /^colour stop/ })
  await expect(stops).toHaveCount(5)
  const second = await stops.nth(1).boundingBox()
  if (!second) throw new Error('no stop')
  await page.mouse.move(second.x + 10, second.y + 10)
  await page.mouse.down()
  await page.mouse.move(second.x + 60, second.y + 10, { steps: 5 })
  await page.mouse.up()
  await page.getByLabel('Stop colour', { exact: true }).fill('#00ff00')
  await expect(page.getByText('73 of 73')).toBeVisible()
  // In words: what is no colour says how one is written, and changes nothing.
  const words = page.getByLabel('Stop colour in words')
  await words.fill('greenish')
  await words.press('Enter')
  await expect(page.getByText('“greenish” is no colour.', { exact: false })).toBeVisible()
  await expect(words).toHaveValue('#00ff00 × 1.7')
  await words.fill('linear 0 2 0')
  await words.press('Enter')
  await expect(words).toHaveValue('#00ff00 × 2')
  await words.fill('hsl 120 100 50 × 1.7')
  await words.press('Enter')
  await expect(words).toHaveValue('#00ff00 × 1.7')
  const more = page.getByRole('button', { name: 'More for the colours' })
  await more.click()
  await page.getByRole('menuitemradio', { name: 'In steps' }).click()
  // A menu gives the focus back some time after it has closed: else it might take it from the stop that is added.
  await expect(more).toBeFocused()
  const strip = await page.getByRole('img', { name: /^Life of Sparks/ }).boundingBox()
  if (!strip) throw new Error('no strip')
  await page.mouse.click(strip.x + strip.width * 0.62, strip.y + 35)
  await expect(stops).toHaveCount(6)
  // The stop that was added has the focus, and after it the one that is picked then: Delete never takes the system with it.
  await expect(stops.nth(5)).toBeFocused()
  await page.keyboard.press('Delete')
  await expect(stops).toHaveCount(5)
  await expect(stops.nth(4)).toBeFocused()
  await page.getByRole('tab', { name: /^Size/ }).click()
  await expect(page.getByRole('button', { name: /^size stop/ })).toHaveCount(3)
  await expect(page.getByText(/Saved \d/)).toBeVisible()
  const look = ((await stored(id)) as unknown as { shared: { looks: { colour: { stops: { at: number; colour: number[] }[] } }[] } }).shared
    .looks[0]
  // The stop keeps how bright it was.
  expect(look.colour.stops[1].colour).toEqual([0, 1.7, 0])
  expect(look.colour.stops[1].at).toBeGreaterThan(0.15)
  // A mapping is a card of the look: what is higher is fainter, at once, from the frames that are there.
  const before = await picture(page)
  await page.getByRole('button', { name: 'Add to the look' }).click()
  await page.getByLabel(/^Find in/).fill('height')
  await page.keyboard.press('Enter')
  const card = page.getByRole('region', { name: 'Mapping', exact: true })
  const choose = async (label: string, option: string) => {
    await card.getByRole('combobox', { name: label, exact: true }).click()
    await page.getByRole('option', { name: option, exact: true }).click()
  }
  await choose('Of', 'opacity')
  await choose('By', 'height')
  await type(page, 'From', '1', 'Mapping')
  await type(page, 'To', '0.5', 'Mapping')
  await expect(page.getByText('73 of 73')).toBeVisible()
  expect(await brightness(page, await picture(page))).toBeLessThan(await brightness(page, before))
  await card
    .getByRole('button', { name: 'Close Mapping' })
    .or(page.getByRole('button', { name: 'Close Mapping' }))
    .first()
    .click()
  await expect(page.locator('[data-act=mapValue]')).toContainText('Multiplies opacity by 0 × to 1 ×, by height.')
  await expect
    .poll(async () => (await stored(id)).systems[0].whole.look.at(-1))
    .toMatchObject({ kind: 'mapValue', of: 'opacity', by: 'y', from: 1, to: 0.5 })
  // Every way to draw in turn: each is another picture, at once, from the same frames.
  let last = await picture(page)
  for (const way of ['Dot', 'Flake', 'Tuft', 'Solid', 'Dash']) {
    await page.getByRole('button', { name: 'Add to the look' }).click()
    await page.getByLabel(/^Find in/).fill(way)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('region', { name: way, exact: true })).toBeVisible()
    if (way !== 'Flake') await expect(page.getByText('73 of 73')).toBeVisible()
    await expect.poll(async () => (await picture(page)).equals(last)).toBe(false)
    last = await picture(page)
  }
  // A picture that is dropped in becomes what particles show.
  const side = 16
  const orange = Uint8Array.from({ length: side * side * 4 }, (_, i) => [255, 140, 30, 255][i % 4])
  await drop(page, 'leaf.png', encode({ width: side, height: side, data: orange, channels: 4, depth: 8 }))
  await expect(page.getByText('leaf: a picture, 1 m long.')).toBeVisible()
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await page.getByRole('button', { name: 'Add to the look' }).click()
  await page.getByLabel(/^Find in/).fill('Sprite')
  await page.keyboard.press('Enter')
  const sprite = page.getByRole('region', { name: 'Sprite', exact: true })
  await sprite.getByRole('combobox', { name: 'Picture', exact: true }).click()
  const without = await picture(page)
  await page.getByRole('option', { name: 'leaf', exact: true }).click()
  await expect.poll(async () => (await picture(page)).equals(without)).toBe(false)
  await expect
    .poll(async () => (await stored(id)).systems[0].whole.look.at(-1))
    .toMatchObject({ kind: 'sprite', object: expect.any(String) })
  // The last one decides, and those before it say so.
  await expect(page.locator('[data-act=tuft]')).toContainText('Sprite below decides instead.')
})

test('the board stands beside the View, folds, and the page remembers it; on a narrow window the list is a rail', async ({ page }) => {
  const id = await copyShot('Beside', bare)
  await openShot(page, id)
  await page.getByRole('button', { name: 'Board beside the View' }).click()
  const view = await page.getByRole('region', { name: 'View' }).boundingBox()
  const board = await page.getByRole('region', { name: 'Board' }).boundingBox()
  expect(board?.x).toBeGreaterThan((view?.x ?? 0) + (view?.width ?? 0) - 2)
  await page.reload()
  await expect(page.getByRole('button', { name: 'Board under the View' })).toBeVisible({ timeout: 20000 })
  await page.getByRole('button', { name: 'Board under the View' }).click()
  await page.setViewportSize({ width: 1024, height: 768 })
  await page.getByRole('button', { name: 'Open the list of elements' }).click()
  await page.getByRole('treeitem', { name: /Anvil/ }).click()
  await expect(page.getByRole('heading', { name: 'Role' })).toBeVisible()
  await page.getByRole('button', { name: 'Fold the list' }).click()
  await page.getByRole('button', { name: 'Sparks' }).click()
  await expect(page.getByRole('heading', { name: 'Whole life' })).toBeVisible()
})

test('each sort of element has its board', async ({ page }) => {
  await openShot(page, await copyShot('Boards', fewer))
  for (const [name, words] of [
    ['Anvil', ['Shape', 'Place', 'Material', 'Role']],
    ['Lantern', ['Light', 'Place']],
    ['Camera', ['Lens', 'Move']],
    ['Picture', ['Elements', 'Finish']],
  ] as const) {
    await page.getByRole('treeitem', { name: new RegExp(`^${name}`) }).click()
    for (const w of words) await expect(page.getByRole('heading', { name: w, exact: true })).toBeVisible()
  }
  await page.getByRole('button', { name: 'Open Bloom' }).click()
  await type(page, 'From', '900')
  await expect(page.getByText(/Nothing is bright enough for this bloom: it sets in at 900/)).toBeVisible()
})

test('copies of an object have shapes of their own, fewer faces far off, and colours out of a set', async ({ page }) => {
  const id = await copyShot('Shapes', (d) => {
    bare(d)
    const anvil = d.objects.find((o) => o.name === 'Anvil') as Record<string, unknown> | undefined
    const twist = { id: 'wring', kind: 'twist', seed: 3, axis: 'y', angle: 0 }
    const model = { ...anvil, id: 'model', name: 'Shard', parent: null, seen: false, roles: { source: false, collider: false } }
    d.objects.push({
      ...model,
      shape: { kind: 'sphere', radius: 0.5, detail: 24, build: 'even' },
      reshape: [twist],
    } as unknown as (typeof d.objects)[number])
    d.systems[0].birth[0].count = 60
    d.systems[0].whole.look.push({ id: 'body', kind: 'solid', seed: 5, body: 'object', object: 'model' })
  })
  await openShot(page, id)
  await goTo(page, 12)
  const look = async () =>
    (await stored(id)).systems[0].whole.look as { kind: string; value?: unknown; low?: number; high?: number; joins?: string }[]
  const add = async (find: string) => {
    await page.getByRole('button', { name: 'Add to the look' }).click()
    await page.getByLabel(/^Find in/).fill(find)
    await page.keyboard.press('Enter')
  }
  // The card says how many faces there are; what is far off takes fewer.
  await expect(page.locator('[data-act=solid]')).toContainText(/[\d,]+ faces\./)
  await page.getByRole('button', { name: 'Open Solid' }).click()
  await type(page, 'Edges at least', '8', 'Solid')
  await expect(page.getByRole('region', { name: 'Solid', exact: true })).toContainText(/[\d,]+ faces, [\d,]+ drawn\./)
  // A value of the shape, found by its object and its name.
  await add('Shape mapping')
  const card = page.getByRole('region', { name: 'Shape mapping', exact: true })
  const choose = async (label: string, option: string) => {
    await card.getByRole('combobox', { name: label, exact: true }).click()
    await page.getByRole('option', { name: option, exact: true }).click()
  }
  await choose('Value: object', 'Shard')
  await choose('Value: value', 'Twist, angle')
  await choose('By', 'random')
  await type(page, 'At 100 %', '300', 'Shape mapping')
  const before = await picture(page)
  await expect.poll(async () => (await look()).at(-1)).toMatchObject({ value: { element: 'model', value: 'acts.wring.angle' }, high: 300 })
  // Each its own is another picture than all alike.
  await type(page, 'At 100 %', '0', 'Shape mapping')
  await expect.poll(async () => (await picture(page)).equals(before)).toBe(false)
  await page.getByRole('button', { name: 'Close Shape mapping' }).first().click()
  await expect(page.locator('[data-act=mapShape]')).toContainText('Shard, Twist, angle')
  // One of the colours of a ramp in steps for each.
  await add('Colour mapping')
  await expect.poll(async () => (await look()).at(-1)).toMatchObject({ kind: 'mapColour', joins: 'replace' })
  await expect(page.getByText(/17 of 17/)).toBeVisible()
})

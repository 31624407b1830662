import { expect } from '@playwright/test'
import { copyShot, exact, goTo, openShot, picture, projects, stored, type, upTo } from './helpers'
import { test } from './lasting'

test('a grade, a bend and grain finish the picture in their order; what is cut off is marked, and scopes say how much', async ({
  page,
}) => {
  const id = await copyShot('Finished', upTo(20))
  await openShot(page, id)
  await goTo(page, 18)
  await page.getByRole('treeitem', { name: /^Picture/ }).click()
  await expect(page.getByText(/at white or above/)).toBeVisible()
  const add = async (name: RegExp) => {
    await page.getByRole('button', { name: 'Add a finish' }).click()
    await page.getByRole('menuitem', { name }).click()
  }
  await add(/^Bloom/)
  await expect(page.getByText(/% of the picture is brighter than that\./)).toBeVisible()
  await exact(page, 18)
  const plain = await picture(page)
  await add(/^Grade/)
  await type(page, 'Exposure', '1.5')
  await exact(page, 18)
  const bright = await picture(page)
  expect(bright.equals(plain)).toBe(false)
  // Nothing was simulated again, and it is one step back.
  await expect(page.getByText('21 of 21')).toBeVisible()
  await add(/^Lens bend/)
  await exact(page, 18)
  expect((await picture(page)).equals(bright)).toBe(true)
  await page.getByRole('combobox', { name: 'Around' }).click()
  await page.getByRole('option', { name: 'Anvil', exact: true }).click()
  await expect.poll(async () => (await picture(page)).equals(bright)).toBe(false)
  await expect
    .poll(async () => (await stored(id)).layers[0].finish.map((a) => (a as { kind: string }).kind))
    .toEqual(['bloom', 'grade', 'lensBend'])
  await exact(page, 18)
  const bent = await picture(page)
  await page.getByRole('heading', { name: 'Light' }).click()
  await page.keyboard.press('w')
  await expect(page.getByRole('button', { name: /^Mark nothing/ })).toBeVisible()
  await expect(page.getByText('Marked: what the screen cuts off; point for values')).toBeVisible()
  // The strike is far over white, and the grade has made it brighter.
  const box = await page.getByTestId('stage').boundingBox()
  if (!box) throw new Error('no picture')
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5)
  await page.mouse.move(box.x + box.width * 0.52, box.y + box.height * 0.52)
  const values = page.getByRole('status', { name: 'Light under the pointer' })
  await expect(values).toContainText(/light [\d. ]+, [+−][\d.]+ stops/)
  const [after, before] = (await values.innerText()).split('\n').map((line) => Number(/[\d.]+/.exec(line)?.[0]))
  expect(after).toBeGreaterThan(before)
  await expect.poll(async () => (await picture(page)).equals(bent)).toBe(false)
  await page.keyboard.press('w')
  await expect.poll(async () => (await picture(page)).equals(bent)).toBe(true)
  await page.getByRole('button', { name: 'Histogram' }).click()
  await expect(page.getByRole('img', { name: 'Light of the picture in stops' })).toBeVisible()
})

test('a layer of sparks adds to the picture, has a finish of its own, is cut by an object, and goes without taking them along', async ({
  page,
}) => {
  const id = await copyShot('Layered', upTo(20))
  await openShot(page, id)
  await goTo(page, 18)
  const plain = await picture(page)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByRole('menuitem', { name: /^Layer/ }).click()
  await expect(page.getByText('Nothing is in this layer yet: choose what it draws.')).toBeVisible()
  await page.getByRole('combobox', { name: 'Add to the layer' }).click()
  await page.getByRole('option', { name: 'Sparks' }).click()
  await page.getByRole('button', { name: /^It covers/ }).click()
  await page.getByRole('combobox', { name: 'Blend' }).click()
  await page.getByRole('option', { name: /^Adds/ }).click()
  await type(page, 'Opacity', '40')
  await exact(page, 18)
  const faint = await picture(page)
  expect(faint.equals(plain)).toBe(false)
  await page.getByRole('button', { name: 'Add a finish' }).click()
  await page.getByRole('menuitem', { name: /^Moving noise/ }).click()
  await page.getByRole('combobox', { name: 'Around' }).click()
  await page.getByRole('option', { name: 'Stump' }).click()
  await expect.poll(async () => (await picture(page)).equals(faint)).toBe(false)
  await exact(page, 18)
  const noisy = await picture(page)
  await page.getByRole('button', { name: /cuts it/ }).click()
  await page.getByRole('combobox', { name: 'Cut by' }).click()
  await page.getByRole('option', { name: /^An object/ }).click()
  await expect(page.getByText('Choose what cuts it: until then all of it is seen.')).toBeVisible()
  await page.getByRole('combobox', { name: 'Object' }).click()
  await page.getByRole('option', { name: 'Stone kiln' }).click()
  await expect.poll(async () => (await picture(page)).equals(noisy)).toBe(false)
  await exact(page, 18)
  const cut = await picture(page)
  await page.getByRole('button', { name: 'Add a finish' }).click()
  await page.getByRole('menuitem', { name: /^Linger/ }).click()
  await type(page, 'Strength', '150')
  await exact(page, 18)
  const lingering = await picture(page)
  expect(lingering.equals(cut)).toBe(false)
  // The same however one came to the frame.
  await goTo(page, 3)
  await exact(page, 3)
  await goTo(page, 18)
  await exact(page, 18)
  expect((await picture(page)).equals(lingering)).toBe(true)
  const [, made] = (await stored(id)).layers as unknown as { id: string; cut: string; blend: string }[]
  await expect.poll(async () => ((await stored(id)).layers as unknown as { cut: string }[])[1]?.cut).toBe('object')
  expect(made).toMatchObject({ blend: 'add' })
  expect(((await stored(id)).systems[0] as unknown as { layer: string }).layer).toBe(made.id)
  await page.getByRole('treeitem', { name: /^Layer/ }).click({ button: 'right' })
  await page.getByRole('menuitem', { name: /^(Remove|Delete)/ }).click()
  await exact(page, 18)
  await expect.poll(async () => (await picture(page)).equals(plain)).toBe(true)
  await expect.poll(async () => (await stored(id)).layers.length).toBe(1)
})

test('a shot is packed with its assets and opened again from the file', async ({ page }) => {
  const name = `Packed ${Date.now()}`
  await copyShot(name, upTo(4))
  await page.goto('/')
  await page
    .getByRole('button', { name: /^Lantern Night/ })
    .first()
    .click()
  await page.getByRole('button', { name: `More for ${name}` }).click()
  const coming = page.waitForEvent('download')
  await page.getByRole('menuitem', { name: 'Pack with all its assets' }).click()
  const file = await (await coming).path()
  const before = (await projects()).flatMap((p) => p.shots).filter((s) => s.name === name).length
  const choosing = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'Open a package' }).click()
  await (await choosing).setFiles({ name: 'packed.zip', mimeType: 'application/zip', buffer: (await import('node:fs')).readFileSync(file) })
  await expect(page.getByText('packed.zip is opened in Lantern Night.')).toBeVisible()
  await expect.poll(async () => (await projects()).flatMap((p) => p.shots).filter((s) => s.name === name).length).toBe(before + 1)
  // Anything else is refused in words.
  const again = page.waitForEvent('filechooser')
  await page.getByRole('button', { name: 'Open a package' }).click()
  await (await again).setFiles({ name: 'letter.zip', mimeType: 'application/zip', buffer: Buffer.from('no zip at all') })
  await expect(page.getByText(/is not a ZIP file; choose a package that was made of a shot/)).toBeVisible()
})

test('a shot loops: its ends meet, and say so', async ({ page }) => {
  const id = await copyShot('Looped', (s) => {
    upTo(20)(s)
    for (const x of s.systems) Object.assign(x, { endless: false, life: 0.4 })
  })
  await openShot(page, id)
  await goTo(page, 0)
  await exact(page, 0)
  const plain = await picture(page)
  await page.getByRole('button', { name: /^Looped/ }).click()
  await page.getByRole('switch', { name: 'Loops' }).click()
  await expect(page.getByText(/the ends meet exactly/)).toBeVisible({ timeout: 30000 })
  await page.keyboard.press('Escape')
  await expect(page.getByText(/^loops, /)).toBeVisible()
  await exact(page, 0)
  expect((await picture(page)).equals(plain)).toBe(false)
  await expect.poll(async () => (await stored(id)).loop).toEqual({ cross: 0 })
})

test('a ring of grains around a float that bends what is behind it, made by hand from a disc; the focus is pulled to it', async ({
  page,
}) => {
  const id = await copyShot('Ring', (s) => {
    upTo(10)(s)
    Object.assign(s, { objects: [], systems: [], forces: [], lights: s.lights.filter((l) => l.kind !== 'point') })
    Object.assign((s.cameras as Record<string, unknown>[])[0], {
      place: [0, 0.5, 3],
      aim: [0, 0, 0],
      lens: 40,
      aperture: null,
      focusAt: null,
    })
  })
  await openShot(page, id)
  await goTo(page, 8)
  const add = async (name: string) => {
    await page.getByRole('button', { name: 'Add an element' }).click()
    await page.getByLabel('Find what to add').fill(name)
    await page.keyboard.press('Enter')
  }
  const differs = async (from: Buffer) => {
    await exact(page, 8)
    await expect.poll(async () => (await picture(page)).equals(from)).toBe(false)
    return picture(page)
  }
  const empty = await picture(page)
  await add('sphere')
  await add('disc')
  // What is chosen becomes the source.
  await add('system')
  await add('orbit')
  await expect.poll(async () => (await stored(id)).systems[0]?.whole.movement.map((a) => (a as { kind?: string }).kind)).toContain('orbit')
  const doc = await stored(id)
  const disc = doc.objects.find((o) => o.shape.kind === 'disc')
  expect(doc.systems[0].birth[0].source).toBe(disc?.id)
  const ring = await differs(empty)
  // A layer with noise around the disc, and the picture bent around the ball.
  await add('layer')
  await page.getByRole('combobox', { name: 'Add to the layer' }).click()
  await page.getByRole('option', { name: 'Sparks' }).click()
  await page.getByRole('button', { name: 'Add a finish' }).click()
  await page.getByRole('menuitem', { name: /^Moving noise/ }).click()
  await page.getByRole('combobox', { name: 'Around' }).click()
  await page.getByRole('option', { name: 'Disc' }).click()
  const noisy = await differs(ring)
  await page.getByRole('treeitem', { name: /^Picture/ }).click()
  await page.getByRole('button', { name: 'Add a finish' }).click()
  await page.getByRole('menuitem', { name: /^Lens bend/ }).click()
  await page.getByRole('combobox', { name: 'Around' }).click()
  await page.getByRole('option', { name: 'Sphere' }).click()
  const bent = await differs(noisy)
  // Focus: far at first, at the float in the end.
  await page.getByRole('treeitem', { name: 'Camera', exact: true }).click()
  await page.getByRole('button', { name: 'Everything is sharp.' }).click()
  await page.getByRole('button', { name: 'all is sharp' }).click()
  await type(page, 'Aperture', '0.5')
  await page.getByRole('combobox', { name: 'Blurred' }).click()
  await page.getByRole('option', { name: /^in one look/ }).click()
  await page.getByRole('button', { name: 'at its aim' }).click()
  await goTo(page, 0)
  await type(page, 'Focus', '12')
  await page.getByRole('button', { name: 'Set key of Focus' }).click()
  await goTo(page, 8)
  await type(page, 'Focus', '3')
  const sharp = await differs(bent)
  await expect
    .poll(async () => ((await stored(id)).cameras as { focus: { keys: { v: number }[] } }[])[0].focus.keys?.map((k) => k.v))
    .toEqual([12, 3])
  await goTo(page, 4)
  await exact(page, 4)
  expect((await picture(page)).equals(sharp)).toBe(false)
})

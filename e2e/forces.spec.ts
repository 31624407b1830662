import { expect, type Locator } from '@playwright/test'
import { copyShot, drop, exact, goTo, lighter, openShot, pickOne, projects, stored, TRIANGLES, type, unfold, upTo } from './helpers'
import { test } from './lasting'
import { source } from './source'

type Act = { kind: string; place?: unknown[]; from?: unknown[]; to?: unknown[]; reach?: number; limits?: { kind: string }[] }
const forcesOf = async (id: string) =>
  (await stored(id)).forces as { name: string; act: Act; reaches: unknown; shares: { share: number }[] }[]

type Box = { x: number; y: number; width: number; height: number }
const isWithin = (a: Box, b: Box | null) =>
  !!b && a.x > b.x + 2 && a.y > b.y + 2 && a.x + a.width < b.x + b.width - 2 && a.y + a.height < b.y + b.height - 2

test('every force is added from the list, says what it does, is dragged by a handle where it has one, is limited, and acts on all systems', async ({
  page,
}) => {
  test.slow()
  // Few frames of few particles: every one of these changes is computed again.
  const id = await copyShot('Each force', (d) => {
    lighter(d)
    d.systems[0].birth[0].count = 50
    for (const o of d.objects) o.seen = false
    d.range = { first: 0, last: 8 }
  })
  await openShot(page, id)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await unfold(page.getByRole('menuitem', { name: 'Force on all systems' }))
  await expect(page.getByRole('menuitem', { name: /^Vortex/ })).toBeVisible()
  const names = (
    await page
      .getByRole('menu')
      .filter({ has: page.getByRole('menuitem', { name: /^Vortex/ }) })
      .last()
      .getByRole('menuitem')
      .allInnerTexts()
  ).map((x) => x.split('\n')[0])
  expect(names.length).toBeGreaterThan(14)
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  const held: string[] = []
  const view = await page.getByRole('region', { name: 'View' }).boundingBox()
  const undo = page.getByRole('button', { name: /^Undo / })
  for (const name of names) {
    await page.getByRole('button', { name: 'Add an element' }).click()
    await unfold(page.getByRole('menuitem', { name: 'Force on all systems' }))
    await page
      .getByRole('menuitem', { name: new RegExp(`^${name}`) })
      .last()
      .click()
    const board = page.getByRole('region', { name: 'Board' })
    await expect(board).toContainText('every system, also those to come')
    const handles = page.locator('g[aria-label^="Handles of"]')
    const knobs = handles.locator('[data-knob]').or(handles.locator('circle[data-handle]'))
    if (await knobs.first().isVisible()) {
      held.push(name)
      const before = await undo.getAttribute('aria-label')
      // One that is far out may lie beyond the View.
      const at = (await Promise.all((await knobs.all()).map((k) => k.boundingBox()))).find((b) => b && isWithin(b, view))
      if (!at) throw new Error(`no handle of ${name}`)
      await page.mouse.move(at.x + at.width / 2, at.y + at.height / 2)
      await page.mouse.down()
      await page.mouse.move(at.x + at.width / 2 + 30, at.y + at.height / 2 - 24, { steps: 4 })
      await page.mouse.up()
      // What is undone next is the drag; that it reaches the document is asked for those below.
      await expect(undo).not.toHaveAttribute('aria-label', before ?? '')
    }
    // The card of a limit is the same on each; acts/forces.test.ts has every limit on every force.
    if (names.indexOf(name) % 6) continue
    await page.getByRole('button', { name: `Limit ${name}` }).click()
    await page.getByRole('menuitem', { name: /^Age/ }).click()
    await expect(page.getByRole('region', { name: 'Limit: Age' })).toContainText('Only')
    await page.getByRole('button', { name: `Close ${name}`, exact: true }).click()
    await expect(board.locator('[data-act]').first()).toContainText(/\S+ \S+.*Only/s)
  }
  // All that stand somewhere, or point somewhere, have handles.
  const { actsOfSort } = await source<typeof import('../src/acts')>(`export { actsOfSort } from './src/acts'`)
  const withHandles = actsOfSort('force').filter((a) => a.handles?.length)
  expect(held.sort()).toEqual(withHandles.map((a) => a.title).sort())
  await exact(page)
  await expect.poll(async () => (await forcesOf(id)).length).toBe(names.length + 1)
  // What has nothing to go after yet says so.
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await expect(page.getByText('From the shot:')).toBeVisible()
})

test('a vortex is moved and widened by its handles, limited to a place, felt by half, and seen on the system', async ({ page }) => {
  const id = await copyShot('Vortex', upTo(24))
  await openShot(page, id)
  await goTo(page, 12)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await unfold(page.getByRole('menuitem', { name: 'Force on all systems' }))
  await page
    .getByRole('menuitem', { name: /^Vortex/ })
    .last()
    .click()
  const reach = page.locator('[data-knob=reach]')
  const before = (await forcesOf(id)).at(-1)?.act.reach ?? 1.5
  const at = await reach.boundingBox()
  if (!at) throw new Error('no handle')
  await page.mouse.move(at.x + 6, at.y + 6)
  await page.mouse.down()
  await page.mouse.move(at.x + 66, at.y + 6, { steps: 6 })
  await page.mouse.up()
  await expect.poll(async () => (await forcesOf(id)).at(-1)?.act.reach).toBeGreaterThan(before)
  await page.getByRole('button', { name: 'Limit Vortex' }).click()
  await page.getByRole('menuitem', { name: /^Place/ }).click()
  await expect(page.getByRole('region', { name: 'Limit: Place' })).toContainText('Only in a ball')
  await type(page, 'Share of Sparks', '50')
  await exact(page, 12)
  await expect
    .poll(async () => (await forcesOf(id)).at(-1))
    .toMatchObject({ shares: [{ share: 50 }], act: { limits: [{ kind: 'limitPlace' }] } })
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await page.getByRole('button', { name: 'Vortex 50 %' }).click()
  await expect(page.getByRole('region', { name: 'Limit: Place' })).toBeVisible()
})

test('a line has a handle at each end, and its reach', async ({ page }) => {
  const id = await copyShot('Line', upTo(24))
  await openShot(page, id)
  await goTo(page, 12)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await unfold(page.getByRole('menuitem', { name: 'Force on all systems' }))
  await page
    .getByRole('menuitem', { name: /^Attract by a line/ })
    .last()
    .click()
  const ends = async () => {
    const act = (await forcesOf(id)).at(-1)?.act
    if (act?.kind !== 'attractLine') throw new Error('the line is not stored')
    return { from: act.from, to: act.to, reach: act.reach ?? 0 }
  }
  const pull = async (handle: Locator, x: number, y: number) => {
    const at = await handle.boundingBox()
    if (!at) throw new Error('no handle')
    await page.mouse.move(at.x + at.width / 2, at.y + at.height / 2)
    await page.mouse.down()
    await page.mouse.move(at.x + at.width / 2 + x, at.y + at.height / 2 + y, { steps: 5 })
    await page.mouse.up()
  }
  const middle = (param: string) => page.locator(`[data-place=${param}] > g > circle[data-handle]`)
  await expect.poll(async () => (await forcesOf(id)).length).toBeGreaterThan(1)
  const before = await ends()
  await pull(middle('to'), 60, -40)
  await expect.poll(async () => (await ends()).to).not.toEqual(before.to)
  // A slow drag is saved on its way: what counts is where it ends.
  let last = ''
  await expect
    .poll(async () => {
      const before = last
      last = JSON.stringify(await ends())
      await page.waitForTimeout(1500)
      return last === before
    })
    .toBe(true)
  const moved = await ends()
  expect(moved.from).toEqual(before.from)
  await pull(middle('from'), -50, 20)
  await expect.poll(async () => (await ends()).from).not.toEqual(before.from)
  expect((await ends()).to).toEqual(moved.to)
  await pull(page.locator('[data-knob=reach]'), 40, 0)
  await expect.poll(async () => (await ends()).reach).toBeGreaterThan(before.reach)
  await exact(page, 12)
})

test('an imported mesh becomes a thick collider, and is thrown', async ({ page }) => {
  const id = await copyShot('Tent', lighter)
  await openShot(page, id)
  await drop(page, 'tent.obj', TRIANGLES(0.4))
  await page.getByRole('treeitem', { name: /tent/i }).click()
  const collider = page.getByRole('switch', { name: 'Collider' })
  if (!(await collider.isChecked())) await collider.click()
  await page.getByRole('button', { name: /Stops particles as it is made/ }).click()
  await type(page, 'Thickness', '5cm')
  await expect.poll(async () => (await stored(id)).objects.at(-1)).toMatchObject({ roles: { collider: true }, thickness: 0.05 })
  // And is thrown itself.
  await page.getByRole('switch', { name: 'Thrown' }).click()
  await expect(page.getByRole('region', { name: 'Board' })).toContainText('Let go at 0 f')
  await page.getByRole('button', { name: /^Let go at/ }).click()
  await type(page, 'Bounce', '65')
  await expect.poll(async () => (await stored(id)).objects.at(-1)).toMatchObject({ body: { at: 0, restitution: 65 } })
  await exact(page)
})

test('charts are read and seek; a particle is picked, followed and let go', async ({ page }) => {
  const id = await copyShot('Looked into', upTo(24))
  await openShot(page, id)
  await goTo(page, 14)
  await page.getByRole('tab', { name: 'Charts' }).click()
  const charts = page.getByTestId('charts')
  await expect(charts).toContainText('Spread now')
  await expect(charts.getByRole('img', { name: /^Speed, from/ })).toBeVisible()
  await charts.getByRole('button', { name: /Measure/ }).click()
  await expect(charts.getByRole('region', { name: 'Cost' })).toContainText('Turbulence')
  await expect(charts.getByRole('region', { name: 'Cost' })).toContainText('Moving and contact')
  const chart = charts.getByRole('img', { name: 'alive over the frames' })
  const box = await chart.boundingBox()
  if (!box) throw new Error('no chart')
  await page.mouse.click(box.x + box.width * 0.85, box.y + box.height / 2)
  await expect(page.getByTestId('frame')).not.toHaveText('14 f')
  await goTo(page, 14)

  await page.getByRole('tab', { name: 'Particle' }).click()
  await page.getByRole('button', { name: 'Pick a particle' }).click()
  const panel = await pickOne(page)
  await expect(panel).toContainText('Sparks, number')
  await expect(panel.getByRole('region', { name: 'What pushes it' })).toContainText('Gravity')
  await expect(panel.getByRole('region', { name: 'What pushes it' })).toContainText('9.81 m/s²')
  await expect(page.getByTestId('way')).toBeVisible()
  await panel.getByRole('button', { name: 'Look at no particle' }).click()
  await expect(page.getByTestId('way')).toBeHidden()

  await page.getByRole('button', { name: 'Show the field of forces' }).click()
  await page.getByRole('menuitem', { name: 'Arrows on a plane' }).click()
  await expect(page.getByTestId('field')).toHaveAttribute('aria-label', /Acceleration of Sparks, up to [1-9]/)
  for (const [name, as] of [
    ['Short trails', 'trails'],
    ['Slice by strength', 'slice'],
  ]) {
    await page.getByRole('button', { name: /^Field of forces/ }).click()
    await page.getByRole('menuitem', { name }).click()
    await expect(page.getByTestId('field')).toHaveAttribute('data-as', as)
  }
})

test('the fox of embers, the lantern swarm and the net open, are computed to their end, and somebody lives in them', async ({ page }) => {
  const project = (await projects()).find((p) => p.name === 'Lantern Night')
  for (const [name, system, count] of [
    ['Fox of embers', 'embers', 42000],
    ['Lantern swarm', 'lanterns', 700],
    ['Net', 'floats', 5000],
  ] as const) {
    const shot = project?.shots.find((s) => s.name === name)
    if (!shot) throw new Error(`${name} is not there`)
    await openShot(page, shot.id)
    const living = async () => Number((await page.locator(`[data-element=${system}]`).innerText()).replace(/[^\d]/g, ''))
    await expect.poll(living).toBeGreaterThan(count * 0.8)
  }
})

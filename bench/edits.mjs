// What one change of a value costs the page in a shot of fifty elements and about 480 keys: node bench/edits.mjs [http://127.0.0.1:4600]
// From a trace of headless Chromium against a server that is running: the key press with everything that the page does for it before it
// answers, as wall time and as time of the main thread's processor (what other threads take of a small machine is not in it).
import { readFileSync } from 'node:fs'
import { chromium } from 'playwright-core'

const URL_ = process.argv[2] ?? 'http://127.0.0.1:4600'
const FLAGS = JSON.parse(readFileSync(new URL('../src/hosts/node/chromium.json', import.meta.url), 'utf8'))
const PRESSES = 30
const median = (l) => [...l].sort((a, b) => a - b)[l.length >> 1]
const json = async (path, init) => {
  const r = await fetch(URL_ + path, { ...init, headers: { 'content-type': 'application/json' } })
  if (!r.ok) throw new Error(`${path}: ${r.status} ${await r.text()}`)
  return r.json()
}
/** The weathervane with so much beside it that the list is as long as lists get. */
function fifty(doc) {
  let count = 0
  const keyed = (n, f) => {
    count += n
    return { keys: Array.from({ length: n }, (_, i) => ({ t: i / 4, v: f(i), ease: 'smooth' })) }
  }
  const fresh = (x, i) => {
    if (Array.isArray(x)) for (const y of x) fresh(y, i)
    else if (x && typeof x === 'object') {
      if (x.id && x.kind) x.id = `${x.id}-${i}`
      for (const y of Object.values(x)) fresh(y, i)
    }
  }
  doc.name = 'Fifty'
  for (let i = doc.objects.length; i < 24; i++)
    doc.objects.push({
      ...doc.objects[0],
      id: `o${i}`,
      name: `Post ${i}`,
      place: [keyed(14, (k) => i * 0.1 + k * 0.01), 0, keyed(6, (k) => k * 0.02)],
      reshape: [],
      regions: [],
      copies: [],
      parent: null,
      roles: { source: false, collider: false },
    })
  for (let i = doc.lights.length; i < 10; i++)
    doc.lights.push({
      ...doc.lights[0],
      id: `l${i}`,
      name: `Lamp ${i}`,
      kind: 'point',
      shadow: false,
      place: [keyed(8, (k) => k * 0.1), 2, 0],
      strength: keyed(6, (k) => 0.2 + k * 0.01),
    })
  for (let i = doc.systems.length; i < 8; i++) {
    const s = structuredClone(doc.systems[0])
    fresh(s, i)
    doc.systems.push({
      ...s,
      id: `s${i}`,
      name: `Threads ${i}`,
      phases: [{ ...s.phases[0], id: `p${i}` }],
      birth: [{ id: `b${i}`, kind: 'steady', seed: 1, rate: keyed(10, (k) => 5 + k), start: 0, end: null, source: doc.objects[0].id }],
    })
  }
  const elements = () => ['objects', 'systems', 'forces', 'lights', 'cameras', 'controls', 'layers'].reduce((n, g) => n + doc[g].length, 0)
  for (let i = 0; elements() < 50; i++)
    doc.controls.push({ id: `c${i}`, name: `Control ${i}`, seed: 1, value: keyed(8, (k) => k), unit: '' })
  return { elements: elements(), keys: count }
}
const project = (await json('/api/projects')).find((p) => p.shots.some((s) => s.name === 'Weathervane'))
const { doc } = await json(`/api/shots/${project.shots.find((s) => s.name === 'Weathervane').id}`)
const size = fifty(doc)
const { id } = await json(`/api/projects/${project.id}/shots`, { method: 'POST', body: JSON.stringify({ doc }) })
const browser = await chromium.launch({ executablePath: process.env.EMBER_CHROMIUM ?? '/usr/bin/chromium', args: FLAGS })
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  await page.goto(`${URL_}/shot/${id}`)
  await page.waitForFunction(() => /As rendered/.test(document.querySelector('[data-testid=quality]')?.textContent ?? ''), null, {
    timeout: 120000,
  })
  const measure = async (what, field) => {
    await field.focus()
    await page.waitForTimeout(500)
    await browser.startTracing(page, { categories: ['devtools.timeline'] })
    for (let i = 0; i < PRESSES; i++) {
      await page.keyboard.press('ArrowUp')
      await page.waitForTimeout(90)
    }
    await page.waitForTimeout(300)
    const events = JSON.parse((await browser.stopTracing()).toString()).traceEvents.filter(
      (e) => e.name === 'EventDispatch' && e.args?.data?.type === 'keydown',
    )
    const of = (key) => Number(median(events.map((e) => e[key] / 1000)).toFixed(1))
    process.stdout.write(`${JSON.stringify({ what, ...size, presses: events.length, wall_ms: of('dur'), processor_ms: of('tdur') })}\n`)
  }
  await page.getByRole('treeitem', { name: /Post 12/ }).click()
  await page
    .getByText(/Surface #/)
    .first()
    .click()
  await measure('roughness of a material', page.getByRole('spinbutton', { name: 'Roughness' }).first())
  await page.getByRole('treeitem', { name: /Threads 5/ }).click()
  await measure('life of a system', page.getByRole('spinbutton', { name: 'Life' }).first())
} finally {
  await browser.close()
  await fetch(`${URL_}/api/shots/${id}`, { method: 'DELETE' })
}

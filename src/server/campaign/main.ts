import { mkdirSync, readFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { fileCampaign, readForCampaign } from './files'
import { Application, Client, newTally, renderer, residentMb, uploader, writer } from './kills'

// A campaign against the product, by hand and long: node dist/campaign.mjs files|kills|writers. Its figures are in docs/promises.md.
const { values: v, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    count: { type: 'string', default: '20000' },
    seed: { type: 'string', default: '1' },
    kills: { type: 'string', default: '500' },
    everyMs: { type: 'string', default: '2000' },
    seconds: { type: 'string', default: '3600' },
    port: { type: 'string', default: '4790' },
    data: { type: 'string', default: '' },
  },
})
const root = process.env.EMBER_ROOT ?? process.cwd()
const sleep = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))
const began = Date.now()
const report = (what: string, o: object) =>
  process.stdout.write(`${JSON.stringify({ what, seconds: Math.round((Date.now() - began) / 1000), ...o }, null, 1)}\n`)

async function application() {
  if (!v.data) throw new Error('--data names a folder of the campaign’s own')
  mkdirSync(v.data, { recursive: true })
  const app = new Application(root, resolve(v.data), Number(v.port))
  await app.start()
  const tally = newTally()
  const client = new Client(`http://127.0.0.1:${v.port}`, tally)
  const projects = (await client.insist('GET', '/api/projects')).json as unknown as { id: string; shots: { id: string; name: string }[] }[]
  const source = projects[0].shots.find((s) => s.name === 'Anvil strike') ?? projects[0].shots[0]
  const { doc } = (await client.insist('GET', `/api/shots/${source.id}`)).json as { doc: { systems: { birth: { count?: number }[] }[] } }
  doc.systems[0].birth[0].count = 300
  const newShot = async (name: string) =>
    String((await client.insist('POST', `/api/projects/${projects[0].id}/shots`, JSON.stringify({ doc: { ...doc, name } }))).json.id)
  return { app, tally, client, newShot }
}
switch (positionals[0]) {
  case 'reader':
    readForCampaign()
    break
  case 'files':
    report('files', await fileCampaign(process.argv[1], root, Number(v.count), Number(v.seed)))
    break
  case 'writers': {
    const { app, tally, client, newShot } = await application()
    const until = Date.now() + Number(v.seconds) * 1000
    const id = await newShot('Two writers')
    const web = () => residentMb(app.parts().get('the web server')?.[0] ?? 0)
    const first = web()
    await Promise.all([writer(client, id, 'a', () => Date.now() < until, true), writer(client, id, 'b', () => Date.now() < until, true)])
    report('writers', { ...tally, webMbBefore: Math.round(first), webMbAfter: Math.round(web()) })
    app.child?.kill('SIGTERM')
    break
  }
  case 'kills': {
    const { app, tally, client, newShot } = await application()
    let left = Number(v.kills)
    const going = () => left > 0
    const ids: string[] = []
    for (let i = 0; i < 10; i++) ids.push(await newShot(`Client ${i}`))
    const work = [
      ...ids.map((id, i) => writer(client, id, `client ${i}`, going)),
      uploader(client, going),
      renderer(client, await newShot('Render me'), going),
    ]
    // xorshift again: which part dies next.
    let x = Number(v.seed) * 2654435761 || 1
    while (left > 0) {
      await sleep(Number(v.everyMs))
      tally.webMb = Math.max(tally.webMb, Math.round(residentMb(app.parts().get('the web server')?.[0] ?? 0)))
      const parts = [...app.parts()]
      x ^= x << 13
      x ^= x >>> 17
      x ^= x << 5
      const [name, pids] = parts[(x >>> 0) % parts.length] ?? []
      // The supervisor dies less often: what it would bring back has a life between.
      if (!pids || (name === 'the supervisor' && (x >>> 8) % 3)) continue
      for (const pid of pids)
        try {
          process.kill(pid, 'SIGKILL')
          tally.kills[name] = (tally.kills[name] ?? 0) + 1
          left--
        } catch {
          // Dead already, and not yet back.
        }
      if (name === 'the supervisor') await app.start()
    }
    await Promise.all(work)
    report('kills', tally)
    for (const line of readFileSync(join(app.data, 'logs/start.log'), 'utf8').split('\n').slice(-3)) process.stderr.write(`${line}\n`)
    app.child?.kill('SIGTERM')
    break
  }
  default:
    process.stderr.write(
      'campaign: files [--count 20000 --seed 1] | kills --data DIR [--kills 500] | writers --data DIR [--seconds 3600]\n',
    )
    process.exitCode = 1
}

import { describe, expect, it } from 'vitest'
import type { FromStage } from '../protocol'
import { StageHost } from './stageHost'

describe('the stage of a page that goes from shot to shot', () => {
  it('says nothing more of the shot before, whatever it was about to say', async () => {
    const said: FromStage[] = []
    const first = new StageHost((m) => said.push(m))
    const ask = (host: StageHost, id: number) => host.receive({ type: 'ask', id, request: { what: 'pick', x: 0, y: 0 } })
    ask(first, 1)
    const { port1, port2 } = new MessageChannel()
    const second = first.again(port1)
    ask(first, 2)
    ask(second, 3)
    await new Promise((r) => setTimeout(r, 20))
    port2.close()
    expect(said.map((m) => m.type === 'settled' && m.id)).toEqual([3])
  })
})

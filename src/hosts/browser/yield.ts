const channel = new MessageChannel()
const waiting: (() => void)[] = []
channel.port1.onmessage = () => waiting.shift()?.()

/** Lets messages in that have come; cheaper and sooner than a timer. */
export const yieldToMessages = (): Promise<void> =>
  new Promise((resolve) => {
    waiting.push(resolve)
    channel.port2.postMessage(0)
  })

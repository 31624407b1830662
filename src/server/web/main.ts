import { createServer } from 'node:http'
import next from 'next'
import { logError } from '../log'
import { contentPolicy, newNonce, refusal } from './door'

// The web server: Next.js behind a door of our own. Run by bin/start, which it does not outlive.
const HEADERS_MS = 15000
const REQUEST_MS = 120000
const MAX_CONNECTIONS = 512
const LEAVE_MS = 3000

const port = Number(process.env.EMBER_PORT)
const app = next({ dev: false, dir: process.env.EMBER_ROOT, hostname: '127.0.0.1', port })
const handle = app.getRequestHandler()
await app.prepare()

const server = createServer({ headersTimeout: HEADERS_MS, requestTimeout: REQUEST_MS }, (request, response) => {
  const refused = refusal(request)
  if (refused) {
    // The body was not read and will not be: the connection goes with the answer.
    response.writeHead(refused.status, { 'content-type': 'application/json', connection: 'close', ...refused.headers })
    response.end(JSON.stringify({ error: refused.message }))
    return
  }
  const policy = contentPolicy(newNonce())
  response.setHeader('content-security-policy', policy)
  // Next.js takes the nonce of its inline scripts from here.
  request.headers['content-security-policy'] = policy
  handle(request, response).catch((error) => {
    logError('web', error)
    if (!response.headersSent) response.writeHead(500)
    response.end()
  })
})
server.maxConnections = MAX_CONNECTIONS
server.on('clientError', (error: NodeJS.ErrnoException, socket) => {
  if (error.code === 'ECONNRESET' || !socket.writable) return
  const status = error.code === 'ERR_HTTP_REQUEST_TIMEOUT' ? '408 Request Timeout' : '400 Bad Request'
  socket.end(`HTTP/1.1 ${status}\r\nconnection: close\r\n\r\n`)
})
server.once('error', (error: NodeJS.ErrnoException) => {
  logError('web', error)
  process.exit(1)
})
server.listen(port, '127.0.0.1')

function leave(): void {
  server.close(() => process.exit(0))
  server.closeIdleConnections()
  setTimeout(() => {
    server.closeAllConnections()
    process.exit(0)
  }, LEAVE_MS).unref()
}
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, leave)
// The supervisor was killed.
process.once('disconnect', () => process.exit(0))

import { randomBytes } from 'node:crypto'
import type { IncomingMessage } from 'node:http'

/** What is refused before anything else looks at a request. */
export interface Refusal {
  status: number
  message: string
  headers?: Record<string, string>
}
const LOCAL = new Set(['127.0.0.1', 'localhost', '[::1]'])
const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS']
const MAX_URL_BYTES = 8192

/** Whether a Host header names this machine itself; a foreign name that was rebound to it does not. */
export const isLocal = (host: string): boolean => LOCAL.has(host.replace(/:\d+$/, ''))

export function refusal(request: Pick<IncomingMessage, 'method' | 'url' | 'headers'>): Refusal | null {
  if (!METHODS.includes(request.method ?? ''))
    return { status: 405, message: `${request.method} is not served here`, headers: { allow: METHODS.join(', ') } }
  if (!isLocal(request.headers.host ?? '')) return { status: 421, message: 'Fox Ember answers only on this machine’s own address' }
  const url = request.url ?? ''
  if (url.length > MAX_URL_BYTES) return { status: 414, message: 'the address is too long' }
  try {
    decodeURIComponent(url.split('?')[0])
  } catch {
    return { status: 400, message: 'the address has a percent sign that is not followed by two hexadecimal digits of UTF-8' }
  }
  return null
}

/** A number that only this answer's own scripts carry. */
export const newNonce = (): string => randomBytes(16).toString('base64')

/**
 * What a page may load and run: what comes from here, and inline scripts of this very answer. Kernels need WebAssembly;
 * components place themselves by inline styles; pictures and workers are also made in the page.
 */
export const contentPolicy = (nonce: string): string =>
  [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "media-src 'self' blob:",
    "font-src 'self'",
    "connect-src 'self' blob: data:",
    "worker-src 'self' blob:",
    "manifest-src 'self'",
    "form-action 'self'",
    "frame-ancestors 'none'",
    "base-uri 'none'",
  ].join('; ')

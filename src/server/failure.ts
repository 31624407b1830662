import type { Problem } from '../shot'

/** An expected failure of a request: a status and the message for the person. */
export class Failure extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly details: { problems?: Problem[]; [k: string]: unknown } = {},
  ) {
    super(message)
  }
}
export const notFound = (what: string) => new Failure(404, `${what} is not there any more`)

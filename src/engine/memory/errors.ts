/** The machine or the limit refuses more memory. Catchable: births stop, the run goes on. */
export class MemoryRefused extends Error {
  constructor(
    readonly wantedBytes: number,
    readonly limitBytes: number,
  ) {
    super(`no room for ${Math.ceil(wantedBytes / 1048576)} MB more: the limit is ${Math.floor(limitBytes / 1048576)} MB`)
    this.name = 'MemoryRefused'
  }
}
/** Somebody asked a running step to stop. The state is half way through a substep and must be restored or reset. */
export class Stopped extends Error {
  constructor() {
    super('stopped')
    this.name = 'Stopped'
  }
}

/** What a person should know about the run: which element, what, since which frame. */
export interface Notice {
  element: string
  kind: 'limit' | 'memory' | 'lost' | 'source' | 'region' | 'crowd'
  frame: number
  message: string
}
/** The notices of one element: of each kind the first. */
export class Notices {
  private list = new Map<Notice['kind'], Notice>()
  constructor(private element: string) {}
  add(kind: Notice['kind'], frame: number, message: string): void {
    if (!this.list.has(kind)) this.list.set(kind, { element: this.element, kind, frame, message })
  }
  get all(): Notice[] {
    return [...this.list.values()]
  }
  restore(notices: readonly Notice[]): void {
    this.list = new Map(notices.map((n) => [n.kind, n]))
  }
}

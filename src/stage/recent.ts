/** What was made for a few keys, those that were asked for last: the View goes to and fro between sizes, and making things costs more than keeping them. */
export class Recent<T> {
  private made = new Map<string, T>()

  /** `most`: so many are kept; `drop`: frees one that is not. */
  constructor(
    private most: number,
    private drop: (t: T) => void,
  ) {}
  of(key: string, make: () => T): T {
    const t = this.made.get(key) ?? make()
    this.made.delete(key)
    this.made.set(key, t)
    for (const [old, x] of this.made) {
      if (this.made.size <= this.most) break
      this.made.delete(old)
      this.drop(x)
    }
    return t
  }
  dispose(): void {
    for (const t of this.made.values()) this.drop(t)
    this.made.clear()
  }
}

/** Answers that take long and are asked for again and again: what was last known is given at once. */

interface Known<T> {
  readonly key: string;
  readonly value: T;
}

export class LastKnown<T> {
  private readonly known = new Map<string, Known<T>>();
  /** Answers that are being made; one at a time for each. */
  private readonly asking = new Map<string, Promise<T>>();

  constructor(
    private readonly changed: (id: string) => void,
    private readonly failed: (error: unknown) => void,
  ) {}

  /**
   * The answer for what depends on `key`. While another one is made, that of an earlier key is given
   * and `changed` is told of the newer one; the first time it is waited for.
   */
  get(id: string, key: string, make: () => Promise<T>): Promise<T> {
    const known = this.known.get(id);
    if (known?.key === key) return Promise.resolve(known.value);
    const asked = this.asking.get(id) ?? this.ask(id, key, make);
    return known ? Promise.resolve(known.value) : asked;
  }

  private ask(id: string, key: string, make: () => Promise<T>): Promise<T> {
    const asked = make()
      .then((value) => {
        const before = this.known.get(id);
        this.known.set(id, { key, value });
        if (JSON.stringify(before?.value) !== JSON.stringify(value)) this.changed(id);
        return value;
      })
      .finally(() => this.asking.delete(id));
    this.asking.set(id, asked);
    // Nobody may be waiting for it; those who are see the error themselves.
    asked.catch(this.failed);
    return asked;
  }
}

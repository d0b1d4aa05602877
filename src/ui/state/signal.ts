/** A value that follows the pointer or the clock: told to whoever listens, without going through React. */
export class Signal<T> {
  private readonly listeners = new Set<(value: T) => void>();

  constructor(private current: T) {}

  get value(): T {
    return this.current;
  }

  set(value: T): void {
    if (value === this.current) return;
    this.current = value;
    for (const listener of this.listeners) listener(value);
  }

  /** Returns what ends the listening. */
  listen(listener: (value: T) => void): () => void {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  }
}

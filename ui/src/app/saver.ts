/**
 * Saves a draft one step at a time. However often flush is called, one send is
 * under way at most, and the newest document is sent last; what could not be
 * sent stays pending.
 */
export interface Saver<T> {
  readonly pending: T | undefined;
  set(doc: T | undefined): void;
  /** Resolves when nothing is pending; rejects with what send threw. */
  flush(): Promise<void>;
}

export function createSaver<T>(send: (doc: T) => Promise<void>): Saver<T> {
  let pending: T | undefined;
  let running: Promise<void> | undefined;
  const loop = async () => {
    while (pending !== undefined) {
      const next = pending;
      await send(next);
      if (pending === next) pending = undefined;
    }
  };
  return {
    get pending() {
      return pending;
    },
    set(doc) {
      pending = doc;
    },
    flush() {
      running ??= loop().finally(() => {
        running = undefined;
      });
      return running;
    },
  };
}

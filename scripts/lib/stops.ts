/** What a script has started, and how all of it is stopped: last first, once, whatever asks for it. */
export class Stops {
  private readonly stops: (() => Promise<void>)[] = [];
  private stopping: Promise<never> | null = null;

  constructor() {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void this.all(0));
  }

  add(stop: () => Promise<void>): void {
    this.stops.push(stop);
  }

  get begun(): boolean {
    return this.stopping !== null;
  }

  /** Stops everything and ends the process; called again while at it (Ctrl-C twice, a part that ends), it goes on. */
  all(code: number): Promise<never> {
    this.stopping ??= (async () => {
      for (const stop of this.stops.reverse()) await stop().catch(() => undefined);
      process.exit(code);
    })();
    return this.stopping;
  }
}

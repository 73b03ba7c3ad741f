/** Faults that tests switch on: each happens `times` times, then is gone. */
export type FaultKind = 'latency' | 'error' | 'cut_before_batch' | 'cut_after_batch';

export class Faults {
  private readonly left = new Map<FaultKind, { times: number; milliseconds: number }>();

  set(kind: FaultKind, times: number, milliseconds: number): void {
    this.left.set(kind, { times, milliseconds });
  }

  /** Uses up one occurrence; the milliseconds of it, or null when this fault is off. */
  take(kind: FaultKind): number | null {
    const fault = this.left.get(kind);
    if (!fault || fault.times <= 0) return null;
    fault.times--;
    return fault.milliseconds;
  }
}

/**
 * Says who may be told a document now. A device on trial waits for our word for seconds only, so no more are told at the
 * same time than can be answered; when ten thousand call at once the rest is told as those before are through.
 */
export class Telling {
  private readonly held = new Map<string, NodeJS.Timeout>();
  private readonly waiting = new Set<string>();

  /**
   * @param most devices told at the same time.
   * @param withinMs how long one holds its turn at the most.
   * @param free is called with a device whose turn has come.
   */
  constructor(
    private readonly most: number,
    private readonly withinMs: number,
    private readonly free: (deviceId: string) => void,
  ) {}

  /** @returns whether it may be told now; if not, it is called for later. @param urgent whether it need not wait. */
  mayTell(deviceId: string, urgent: boolean): boolean {
    const mine = this.held.get(deviceId);
    if (!mine && !urgent && this.held.size >= this.most) {
      this.waiting.add(deviceId);
      return false;
    }
    clearTimeout(mine);
    this.waiting.delete(deviceId);
    this.held.set(
      deviceId,
      setTimeout(() => this.through(deviceId), this.withinMs),
    );
    return true;
  }

  /** The device took its document, did not, or has gone. */
  through(deviceId: string): void {
    this.waiting.delete(deviceId);
    const timer = this.held.get(deviceId);
    if (!timer) return;
    clearTimeout(timer);
    this.held.delete(deviceId);
    const [next] = this.waiting;
    if (next === undefined) return;
    this.waiting.delete(next);
    this.free(next);
  }

  close(): void {
    for (const timer of this.held.values()) clearTimeout(timer);
    this.waiting.clear();
  }
}

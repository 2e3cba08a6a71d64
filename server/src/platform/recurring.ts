/** Work that is looked for now and then, and when somebody says that there may be some: never twice at once. */
export class Recurring {
  private timer: NodeJS.Timeout | null = null;
  private running: Promise<void> | null = null;
  private again = false;
  private closed = false;

  /** @param everyMs how long after one look the next comes by itself. */
  constructor(
    private readonly work: () => Promise<void>,
    private readonly everyMs: number,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Begins to look. */
  open(firstMs = this.everyMs): void {
    this.timer = setTimeout(() => this.beat(), firstMs);
  }

  /** Looks now; calls that come while it looks are one more look. */
  look(): void {
    if (this.closed) return;
    if (this.running) {
      this.again = true;
      return;
    }
    this.running = this.work()
      .catch((error: unknown) => {
        if (!this.closed) this.failed(error);
      })
      .finally(() => {
        this.running = null;
        if (!this.again) return;
        this.again = false;
        this.look();
      });
  }

  /** Looks no more, and waits for what is under way. */
  async close(): Promise<void> {
    this.closed = true;
    if (this.timer) clearTimeout(this.timer);
    await this.running;
  }

  private beat(): void {
    this.look();
    this.timer = setTimeout(() => this.beat(), this.everyMs);
  }
}

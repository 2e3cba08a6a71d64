/** Lets so many pieces of work go on at the same time; the rest waits its turn, first come first served. */
export class Gate {
  private running = 0;
  private readonly waiting: (() => void)[] = [];

  /**
   * @param mostWaiting how many may wait; more are refused.
   * @param refusal what they are refused with.
   */
  constructor(
    private readonly most: number,
    private readonly mostWaiting = Infinity,
    private readonly refusal: () => Error = () => new RangeError('too many wait'),
  ) {}

  async run<T>(work: () => Promise<T>): Promise<T> {
    if (this.running >= this.most) {
      if (this.waiting.length >= this.mostWaiting) throw this.refusal();
      await new Promise<void>((resolve) => this.waiting.push(resolve));
    } else this.running++;
    try {
      return await work();
    } finally {
      const next = this.waiting.shift();
      if (next)
        next(); // it takes over our turn
      else this.running--;
    }
  }
}

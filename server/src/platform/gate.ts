/** Lets so many pieces of work go on at the same time; the rest waits its turn, first come first served. */
export class Gate {
  private running = 0;
  private readonly waiting: (() => void)[] = [];

  constructor(private readonly most: number) {}

  async run<T>(work: () => Promise<T>): Promise<T> {
    if (this.running >= this.most) await new Promise<void>((resolve) => this.waiting.push(resolve));
    else this.running++;
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

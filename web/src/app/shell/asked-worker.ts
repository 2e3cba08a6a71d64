/** Asks a worker one question after the other, off the page’s thread; where there are none, questions are answered here. */
export class AskedWorker<Question, Answer> {
  private worker: Worker | null = null;
  private asked = 0;
  private readonly waiting = new Map<number, (answer: Answer) => void>();

  /** @param make makes the worker, which is told `{ number, question }` and answers `{ number, answer }`. @param here answers without one. */
  constructor(
    private readonly make: () => Worker,
    private readonly here: (question: Question) => Answer,
  ) {}

  ask(question: Question, then: (answer: Answer) => void): void {
    if (typeof Worker === 'undefined') return then(this.here(question));
    if (!this.worker) {
      this.worker = this.make();
      this.worker.onmessage = ({ data }: MessageEvent<{ number: number; answer: Answer }>) => {
        this.waiting.get(data.number)?.(data.answer);
        this.waiting.delete(data.number);
      };
    }
    const number = ++this.asked;
    this.waiting.set(number, then);
    this.worker.postMessage({ number, question });
  }

  stop(): void {
    this.worker?.terminate();
    this.worker = null;
    this.waiting.clear();
  }
}

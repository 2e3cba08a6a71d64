/** A certificate and its key, as PEM. */
export interface Certified {
  readonly cert: string;
  readonly key: string;
}

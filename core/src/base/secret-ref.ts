/** Stands for a secret value kept elsewhere: one id never changes its value, so a hash over it identifies both. */
export interface SecretRef {
  readonly secret: string;
}

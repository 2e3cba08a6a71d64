/** Why something does not start, in one sentence that says what to do: shown as it is, without a stack. */
export class Refusal extends Error {}

/** Exit code of a process that has said itself why it does not start (EX_CONFIG of sysexits.h). */
export const SAID = 78;

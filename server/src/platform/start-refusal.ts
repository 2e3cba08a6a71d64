/** Why the controller does not start, in one sentence that says what to do: shown as it is, without a stack. */
export class StartRefusal extends Error {}

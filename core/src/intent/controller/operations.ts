/** Where this controller answers: addresses, prefixes or ranges. */
export interface ControllerOperation {
  readonly type: 'controller.set';
  readonly from: readonly string[];
  readonly to: readonly string[];
}

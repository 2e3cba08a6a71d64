export interface LabPort {
  readonly name: string;
  readonly untagged: number | null;
  readonly tagged: readonly number[];
  readonly isolated?: boolean;
}
export interface SwitchLab {
  /** Where a broadcast frame comes out: `bridge.port`, with `@VLAN` where it is tagged; sorted. */
  frame(port: string, tag: number | null): Promise<string[]>;
  stop(): Promise<void>;
}
export function startSwitchLab(plant: {
  readonly bridges: Readonly<Record<string, readonly LabPort[]>>;
  readonly cables: readonly (readonly [string, string])[];
}): Promise<SwitchLab>;

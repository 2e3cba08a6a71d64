import type { ChildProcess } from 'node:child_process';

export function startController(env: Record<string, string>): Promise<{
  child: ChildProcess;
  url: string;
  entryPort: number | null;
  portalUrl: string | null;
}>;
export function startFleet(options: {
  world: string;
  controllerUrl: string;
  state: string | null;
  control: number;
  sweepPort?: number;
  radiusPort?: number;
}): ChildProcess;
export function stopChild(child: ChildProcess, signal?: NodeJS.Signals): Promise<void>;

import type { ChildProcess } from 'node:child_process';

export function freePorts(count: number): Promise<number[]>;
export function startBalancer(options: {
  port: number;
  servers: readonly number[];
  folder: string;
}): Promise<{ child: ChildProcess; url: string }>;

import { vi } from 'vitest';

// A bound for what hangs, not a speed target: machines differ.
vi.setConfig({ testTimeout: 60_000, hookTimeout: 60_000 });

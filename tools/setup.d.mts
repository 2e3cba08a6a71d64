export function ensureDependencies(): void;
export function ensureWeb(): Promise<void>;

export function ensureDependencies(): void;
export function ensureWeb(): void;

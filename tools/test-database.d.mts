export function freshDatabase(): Promise<{ url: string; drop: () => Promise<void> }>;

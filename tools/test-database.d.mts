export function freshDatabase(template?: string): Promise<{ name: string; url: string; drop: () => Promise<void> }>;

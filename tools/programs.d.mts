export const PROGRAMS: { readonly controller: string; readonly fleet: string };
export function makePrograms(): Promise<void>;

/** A number that was typed; null: nothing was. What is no number is one that nothing takes. */
export function numberTyped(typed: string): number | null {
  const text = typed.trim().replace(',', '.');
  if (text === '') return null;
  const value = Number(text);
  return Number.isFinite(value) ? value : -1;
}

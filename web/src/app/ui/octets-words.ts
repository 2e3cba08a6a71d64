const UNITS = ['B', 'kB', 'MB', 'GB', 'TB'] as const;

/** Octets in words: `3.2 MB`. */
export function octetsWords(octets: number): string {
  const step = octets < 1 ? 0 : Math.min(UNITS.length - 1, Math.floor(Math.log10(octets) / 3));
  const value = octets / 1000 ** step;
  return `${step === 0 ? value : value.toFixed(value < 10 ? 1 : 0)} ${UNITS[step]}`;
}

/** A length of time as people say it: `2 d`, `8 h`, `90 min`. */
export function lastsWords(minutes: number): string {
  if (minutes > 0 && minutes % 1440 === 0) return `${minutes / 1440} d`;
  return minutes > 0 && minutes % 60 === 0 ? `${minutes / 60} h` : `${minutes} min`;
}

const UNITS: Readonly<Record<string, number>> = { min: 1, m: 1, h: 60, d: 1440 };

/** Reads `90 min`, `8 h`, `2 d` or plain minutes. @returns minutes; NaN where it is none of these. */
export function readLasts(text: string): number {
  const [, number = '', unit = 'min'] = /^\s*(\d+(?:[.,]\d+)?)\s*(min|m|h|d)?\s*$/i.exec(text) ?? [];
  return number === '' ? NaN : Math.round(Number(number.replace(',', '.')) * UNITS[unit.toLowerCase()]! * 1000) / 1000;
}

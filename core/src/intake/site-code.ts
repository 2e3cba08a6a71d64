/**
 * Proposes a short form of a site's name for device names: the initials of several words, else the first letter
 * and one further consonant; then longer forms, then numbers, until it is free.
 * @param taken codes of the estate's other sites.
 * @returns two or more of `a-z0-9`.
 */
export function proposeSiteCode(name: string, taken: Iterable<string>): string {
  const used = new Set(taken);
  const plain = name
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase();
  const words = plain.split(/[^a-z0-9]+/).filter((word) => word !== '');
  const whole = words.join('') || 'site';
  const consonants = [...whole.slice(1)].filter((letter) => !'aeiou'.includes(letter));
  const candidates = [
    ...(words.length > 1 ? [words.map((word) => word[0]).join('')] : []),
    ...consonants.map((letter) => whole[0]! + letter),
    ...Array.from({ length: whole.length }, (_, i) => whole.slice(0, i + 1)).filter((start) => start.length > 1),
  ].filter((code) => code.length > 1);
  for (let n = 2; ; n++) {
    const code = candidates.shift() ?? `${whole.slice(0, 6)}${n}`;
    if (!used.has(code)) return code;
  }
}

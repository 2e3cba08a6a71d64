/** A number with its noun: `1 device`, `1,200 devices`. @param noun in the singular. @param nouns its plural, if it takes more than an s. */
export const counted = (count: number, noun: string, nouns = `${noun}s`): string =>
  `${count.toLocaleString('en')} ${count === 1 ? noun : nouns}`;

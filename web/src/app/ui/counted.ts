/** A number with its noun: `1 device`, `1,200 devices`. @param noun in the singular; its plural takes an s. */
export const counted = (count: number, noun: string): string =>
  `${count.toLocaleString('en')} ${noun}${count === 1 ? '' : 's'}`;

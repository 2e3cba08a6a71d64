/** A pattern of LIKE that finds a text anywhere, whatever is in it. */
export const likeOf = (text: string): string => `%${text.replace(/[\\%_]/g, '\\$&')}%`;

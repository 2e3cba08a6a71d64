import { contains, parsePrefix } from '../../address';

/** Whether a prefix is within one of some. */
export function isIn(text: string, spans: readonly string[]): boolean {
  const prefix = parsePrefix(text);
  return prefix !== null && spans.some((span) => contains(parsePrefix(span)!, prefix));
}

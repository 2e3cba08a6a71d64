import { followIn, namesEnd } from '../ends';
import type { Naming } from '../noun';

/** Guarantees name what they are about; they follow it to another name. */
export const namingOfGuarantees: Naming = {
  userOf: (part, kind, name) =>
    part.guarantees?.some((each) => namesEnd(each, kind, name)) ? `a guarantee of ${part.name}` : null,
  follow: (part, renamed) => followIn(part, ['guarantees'], renamed),
};

import type { HoursDocument } from './hours';

/**
 * Clients are held back until the controller says that they are let in: until then addresses are given and names looked up, and nothing
 * passes but to the controller’s portal, whose address it says on the line, and to the walled garden. What they ask for by HTTP at port 80 is
 * answered with a way to the portal; HTTPS is left alone.
 */
export interface PortalDocument {
  readonly id: string;
  readonly name: string;
  /** Walled garden: names, names below one (`*.ferries.example`), addresses, prefixes, ranges. */
  readonly garden?: readonly string[];
  /** Its clients are not told by DHCP that they are held. */
  readonly quiet?: true;
  /** At other times nobody is let in, whoever the controller lets in; absent: at all. */
  readonly hours?: HoursDocument;
}

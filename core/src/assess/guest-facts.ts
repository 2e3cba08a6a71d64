/** What is known of how guests are let in, whatever the draft says. */
export interface GuestFacts {
  /** Whether mail, and text messages, can be sent. */
  readonly mail: boolean;
  readonly texts: boolean;
  /** Where the page answers that guests sign in at, without the last slash; empty: nowhere. */
  readonly url: string;
  /** Portals whose shortest code is guessed too soon, with the days that it takes. */
  readonly easy: readonly { readonly portalId: string; readonly days: number }[];
  /** Versions of the terms that guests who are let in agreed to. */
  readonly agreed: readonly { readonly portalId: string; readonly terms: string }[];
}

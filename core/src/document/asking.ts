/** What a port asks of its clients, in this order: who they are (IEEE 802.1X-2020), or whether their MAC address is known. */
export const PORT_ASKS = ['802.1X', 'mac', '802.1X-mac', 'mac-802.1X'] as const;
export type PortAsks = (typeof PORT_ASKS)[number];

/** Ways in which a port finds out who somebody is. */
export type AskingWay = '802.1X' | 'mac';

/** The ways of a port, in their order; none where it asks nobody. */
export const waysOf = (auth: PortAsks | 'none' | undefined): readonly AskingWay[] => {
  switch (auth) {
    case '802.1X':
    case 'mac':
      return [auth];
    case '802.1X-mac':
      return ['802.1X', 'mac'];
    case 'mac-802.1X':
      return ['mac', '802.1X'];
    case 'none':
    case undefined:
      return [];
  }
};

/** What is usual at a port that asks: seconds for which somebody who was turned away is left alone, and after which one is asked anew (IEEE 802.1X-2020 §8.6, §8.9). */
export const USUAL_QUIET = 60;
export const USUAL_AGAIN = 3600;

/** What a port asks, and what becomes of whom it does not learn enough of. Fields are only there where they are not the usual. */
export interface AskingDocument {
  readonly auth?: PortAsks;
  /** Who may be there at once; absent: several. `one`; `phone`: one, and a desk phone whose frames carry the tag of `voice`. */
  readonly hosts?: 'one' | 'phone';
  /** VLAN of desk phones: whose class leads there tags its frames. */
  readonly voice?: number;
  /** VLANs for those who do not say who they are, who are turned away, and whom no server answers about. */
  readonly guest?: number;
  readonly rejected?: number;
  readonly unanswered?: number;
  /** Those of these VLANs whose clients are kept apart from each other, ascending; absent: none. */
  readonly apart?: readonly number[];
  /** Seconds: see `USUAL_QUIET` and `USUAL_AGAIN`. */
  readonly quiet?: number;
  readonly again?: number;
}

/** The VLANs that a port puts those into who get no class. */
export const fallbacksOf = ({ guest, rejected, unanswered }: AskingDocument): readonly number[] =>
  [guest, rejected, unanswered].flatMap((vlan) => vlan ?? []);

/** Every VLAN that a client of a port may be in, besides the port’s own, since it asks who that is. */
export const askedVlans = (
  port: AskingDocument,
  { classes = [] }: { readonly classes?: readonly { readonly vlan: number | null }[] },
): readonly number[] =>
  port.auth === undefined
    ? []
    : [
        ...classes.flatMap(({ vlan }) => vlan ?? []),
        ...fallbacksOf(port),
        ...(port.voice === undefined ? [] : [port.voice]),
      ];

/** A segment said once for many sites; each has it in a subnet of its own. */
export interface Recipe {
  readonly id: string;
  readonly name: string;
  readonly vlan: number;
  readonly purpose: string;
  readonly domain: string;
  /** Bits of each site's subnet. */
  readonly length: number;
  /** Where subnets come from: each site's own block, or a prefix of the estate that is filled in order. */
  readonly parent: string | null;
  /** Null: nobody gives addresses. */
  readonly leaseSeconds: number | null;
}

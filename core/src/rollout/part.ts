import { sameAll } from '../base';
import type { DeviceDocument } from '../document';
import { sheetFor, type DeviceKind } from '../hardware';
import type { EstatePart, ResolvedSite, RosterDevice } from '../intent';
import { each, type Facts, type ReadsDevice, type Seen, type SeenDevice, type Source } from './reads';

/** Every field that a document of some kind may have. */
export type Told = Partial<Omit<Extract<DeviceDocument, { kind: 'gateway' }>, 'kind'>> &
  Partial<Omit<Extract<DeviceDocument, { kind: 'switch' }>, 'kind'>> &
  Partial<Omit<Extract<DeviceDocument, { kind: 'ap' }>, 'kind'>>;

/** One thing that devices are told, ready for the devices of a site. */
export interface Part {
  readonly name: string;
  readonly kinds: readonly DeviceKind[];
  /** What it adds to a device's document. The same in gives the same object out. */
  readonly of: (source: Source) => (device: RosterDevice, before: Told) => Told;
}

/**
 * A part of what devices are told.
 * @param says.kinds the devices it is for.
 * @param says.reads what it reads of the site, of the device, and of what earlier parts told it (`before`). It sees nothing
 *   else, so that what it told last time holds as long as those stay.
 * @param says.tells the fields it adds, or replaces.
 */
export function part<
  D extends keyof RosterDevice,
  S extends Exclude<keyof ResolvedSite, 'estate'> = never,
  E extends keyof EstatePart = never,
  A extends keyof RosterDevice = never,
  B extends keyof Told = never,
  F extends Facts = Readonly<Record<never, never>>,
>({
  name,
  kinds,
  reads,
  tells,
}: {
  readonly name: string;
  readonly kinds: readonly DeviceKind[];
  readonly reads: ReadsDevice<S, E, A, F, D, B>;
  readonly tells: (seen: Seen<S, E, A, F>, device: SeenDevice<D>, before: Pick<Told, B>) => Told;
}): Part {
  return { name, kinds, of: each<Told, D, S, E, A, F, Told, B>(reads, tells) };
}

/** Puts documents together of what parts tell. @returns documents by device id, in the roster's order. */
export function compiler(parts: readonly Part[]): (source: Source) => Map<string, DeviceDocument> {
  const known = new WeakMap<RosterDevice, { readonly told: readonly Told[]; readonly document: DeviceDocument }>();
  return (source) => {
    const opened = parts.map(({ kinds, of }) => ({ kinds, tell: of(source) }));
    return new Map(
      source.roster.map((device): [string, DeviceDocument] => {
        const { kind } = sheetFor(device);
        const before: Told = {};
        const told: Told[] = [];
        for (const { kinds, tell } of opened) {
          if (!kinds.includes(kind)) continue;
          const added = tell(device, before);
          Object.assign(before, added);
          told.push(added);
        }
        const last = known.get(device);
        if (last && sameAll(last.told, told)) return [device.id, last.document];
        // Which fields a kind has is held by the parts' kinds, and tried by `parts.spec.ts`.
        const document = { kind, ...before } as DeviceDocument;
        known.set(device, { told, document });
        return [device.id, document];
      }),
    );
  };
}

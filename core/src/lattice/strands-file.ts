import { Joi } from '../schema';
import type { DeviceDocument, PortDocument } from '../document';
import type { Link, LinkEnd } from '../intent';
import { floodFrom } from './flood';
import type { Documents } from './strand';

/** A site as a file: names in place of ids. Described in docs/strands-file.md. */
export interface StrandsFile {
  readonly format: 'iron-lattice.strands/1';
  readonly segments: readonly { readonly name: string; readonly vlan: number }[];
  readonly devices: readonly { readonly name: string; readonly ports: readonly StrandsPort[] }[];
  /** Pairs of `device.port`; a port's name is what follows the last dot. */
  readonly cables: readonly (readonly [string, string])[];
}
export interface StrandsPort {
  readonly name: string;
  /** Segment name; absent or null: untagged frames are dropped. */
  readonly untagged?: string | null;
  /** Segment names, or `all`; absent: none. */
  readonly tagged?: 'all' | readonly string[];
  readonly isolated?: boolean;
  readonly group?: number;
}

/** Where a frame of a segment comes out that went in at a port: `device.port`, with `@VLAN` where it is tagged. */
export interface StrandsReach {
  readonly segment: string;
  readonly from: string;
  /** VLAN ID it went in with; null: untagged. */
  readonly tag: number | null;
  readonly reaches: readonly string[];
}

const name = Joi.string().min(1).max(64).required();
const schema = Joi.object({
  format: Joi.string().valid('iron-lattice.strands/1').required(),
  segments: Joi.array()
    .items(Joi.object({ name, vlan: Joi.number().integer().min(1).max(4094).required() }))
    .unique('name')
    .unique('vlan')
    .required(),
  devices: Joi.array()
    .items(
      Joi.object({
        name,
        ports: Joi.array()
          .items(
            Joi.object({
              name: name.pattern(/^[^.]+$/),
              untagged: Joi.string().allow(null),
              tagged: Joi.alternatives(Joi.string().valid('all'), Joi.array().items(Joi.string())),
              isolated: Joi.boolean(),
              group: Joi.number().integer().min(1),
            }),
          )
          .unique('name')
          .required(),
      }),
    )
    .unique('name')
    .required(),
  cables: Joi.array().items(Joi.array().items(Joi.string()).length(2)).required(),
});

/** A file's devices as documents, and its cables. */
export interface StrandsPlant {
  readonly file: StrandsFile;
  readonly documents: Documents;
  readonly links: readonly Link[];
}

/** Checks and reads such a file. @throws Error that names the place and what is wrong there. */
export function readStrands(value: unknown): StrandsPlant {
  const { error } = schema.validate(value);
  if (error) throw new Error(error.message);
  const file = value as StrandsFile;
  const vlans = new Map(file.segments.map((segment) => [segment.name, segment.vlan]));
  const all = [...vlans.values()].sort((a, b) => a - b);
  const vlanOf = (segment: string, where: string): number => {
    const vlan = vlans.get(segment);
    if (vlan === undefined) throw new Error(`${where} names the segment “${segment}”, which is not there`);
    return vlan;
  };
  const documents = new Map<string, DeviceDocument>();
  for (const device of file.devices) {
    const ports = device.ports.map(({ name, untagged = null, tagged = [], isolated, group }): PortDocument => {
      const where = `${device.name}.${name}`;
      const own = untagged === null ? null : vlanOf(untagged, where);
      const tags = tagged === 'all' ? all : tagged.map((each) => vlanOf(each, where)).sort((a, b) => a - b);
      return {
        name,
        untagged: own,
        tagged: [...new Set(tags)].filter((vlan) => vlan !== own),
        ...(isolated ? { isolated } : {}),
        ...(group === undefined ? {} : { group }),
      };
    });
    const about = { name: device.name, serial: device.name, model: '' };
    const site = { name: '', country: '', timeZone: '' };
    const format = 'iron-lattice.document/1' as const;
    documents.set(device.name, {
      format,
      kind: 'switch',
      device: about,
      site,
      management: { vlan: 1 },
      ports,
      vlans: [],
    });
  }
  const used = new Set<string>();
  const endOf = (text: string): LinkEnd => {
    const dot = text.lastIndexOf('.');
    const end = { deviceId: text.slice(0, dot), port: text.slice(dot + 1) };
    if (!documents.get(end.deviceId)?.ports.some((port) => port.name === end.port))
      throw new Error(`a cable ends at “${text}”, which is no port of any device`);
    if (used.has(text)) throw new Error(`two cables end at “${text}”`);
    used.add(text);
    return end;
  };
  return { file, documents, links: file.cables.map(([a, b]) => ({ a: endOf(a), b: endOf(b) })) };
}

/** Which ports a broadcast frame of each segment reaches from each port that takes the segment and is not cabled. */
export function strandsOf({ file, documents, links }: StrandsPlant): StrandsReach[] {
  const cabled = new Set(file.cables.flat());
  return file.segments.flatMap(({ name: segment, vlan }) =>
    [...documents].flatMap(([deviceId, { ports }]) =>
      ports.flatMap((port): StrandsReach[] => {
        const from = `${deviceId}.${port.name}`;
        const tag = port.untagged === vlan ? null : port.tagged.includes(vlan) ? vlan : undefined;
        if (tag === undefined || cabled.has(from)) return [];
        const reached = floodFrom(documents, links, { deviceId, port: port.name }, tag);
        const reaches = reached.map(
          ({ end, tag: out }) => `${end.deviceId}.${end.port}${out === null ? '' : `@${out}`}`,
        );
        return [{ segment, from, tag, reaches }];
      }),
    ),
  );
}

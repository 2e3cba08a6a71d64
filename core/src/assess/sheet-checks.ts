import { policiesOf, type DeviceDocument } from '../document';
import { sheetFor, type HardwareSheet } from '../hardware';
import type { Check } from './check';
import type { Finding } from './finding';

/** Something of which a box holds so many, as its sheet says. */
interface Limit {
  readonly field: 'pooled' | 'knownClients' | 'groups' | 'rules';
  readonly held: (document: DeviceDocument) => number;
  readonly message: (name: string, held: number) => string;
  readonly most: (most: number) => string;
  readonly advice: string;
}

const LIMITS: readonly Limit[] = [
  {
    field: 'pooled',
    held: (document) =>
      document.kind === 'ap' ? Math.max(0, ...document.ssids.map(({ pool = [] }) => pool.length)) : 0,
    message: (name, held) => `${name} cannot share the clients of an SSID among ${held} segments`,
    most: (most) => `shares them among ${most} at most`,
    advice: 'Take segments out of the pool, or let two SSIDs share them.',
  },
  {
    field: 'knownClients',
    held: ({ classes = [] }) => classes.reduce((sum, { members }) => sum + members.length, 0),
    message: (name, held) => `${name} cannot know ${held} clients by their MAC addresses`,
    most: (most) => `knows ${most} at most`,
    advice: 'Let classes reach only the sites where their clients are.',
  },
  {
    field: 'groups',
    held: ({ ports }) => new Set(ports.flatMap(({ group }) => group ?? [])).size,
    message: (name, held) => `${name} cannot have ${held} groups of ports`,
    most: (most) => `has ${most} at most`,
    advice: 'Take ports out of their groups.',
  },
  {
    field: 'rules',
    held: (document) => Math.max(0, ...policiesOf(document).map(({ rules }) => rules.length)),
    message: (name, held) => `${name} cannot hold a list of ${held} rules`,
    most: (most) => `holds ${most} at most`,
    advice: 'Say several in one by named sets, or let the gateway decide.',
  },
];

/** A document never changes: what it holds is counted once. */
const counted = new WeakMap<DeviceDocument, readonly number[]>();
function heldBy(document: DeviceDocument): readonly number[] {
  let counts = counted.get(document);
  if (!counts) counted.set(document, (counts = LIMITS.map(({ held }) => held(document))));
  return counts;
}

/** A device that would be told more of something than its hardware sheet says it holds. */
export const beyondSheet: Check = ({ site, roster, documents }) =>
  roster.flatMap((device): Finding[] => {
    const sheet: HardwareSheet = sheetFor(device);
    const document = documents.get(device.id);
    if (!document) return [];
    const counts = heldBy(document);
    return LIMITS.flatMap(({ field, message, most, advice }, i): Finding[] => {
      const limit = sheet[field];
      const count = counts[i]!;
      if (limit === undefined || count <= limit) return [];
      return [
        {
          key: `intake.beyond-sheet ${device.id} ${field}`,
          code: 'intake.beyond-sheet',
          severity: 'error',
          message: message(device.name, count),
          reason: `${sheet.title} ${most(limit)}. ${advice}`,
          place: { siteId: site.id, kind: 'device', id: device.id },
          mend: null,
        },
      ];
    });
  });

import { asHeard } from '../base';
import { sheetFor } from '../hardware';
import { isRoutedByAps, isRoutedByGateway } from '../intent';
import { capPlaces } from '../rollout';
import { CAP_WAYS, type Caps } from '../traffic';
import type { Check, CheckContext } from './check';
import type { Finding, FindingPlace } from './finding';

/** Below this many kb/s a page of 2 MB takes more than a minute. */
const STARVES = 256;

/** A rate in words, in Mb/s. */
const mbps = (kbps: number): string => `${+(kbps / 1000).toFixed(kbps < 10_000 ? 2 : 0)} Mb/s`;

interface Capped {
  readonly place: FindingPlace;
  readonly name: string;
  readonly caps: Caps;
  /** Most clients that may be there at once, where that is said. */
  readonly most: number | null;
}

/** Everything of a site that has caps. */
function cappedAt({ site, roster }: CheckContext): Capped[] {
  const place = (kind: 'ssid' | 'segment', id: string): FindingPlace => ({ siteId: site.id, kind, id });
  const radios = roster.flatMap((device) => sheetFor(device).radios.map(({ band }) => band));
  return [
    ...site.ssids.flatMap(({ id, name, caps, most, bands }): Capped[] => {
      if (!caps) return [];
      const sending = radios.filter((band) => bands.includes(band)).length;
      return [{ place: place('ssid', id), name: `“${asHeard(name)}”`, caps, most: most ? most * sending : null }];
    }),
    ...site.segments.flatMap(({ id, name, caps }): Capped[] =>
      caps ? [{ place: place('segment', id), name, caps, most: null }] : [],
    ),
  ];
}

const found = (
  { place }: Pick<Capped, 'place'>,
  code: string,
  say: Pick<Finding, 'severity' | 'message' | 'reason'>,
): Finding => ({ key: `${code} ${place.kind} ${place.id}`, code, place, mend: null, ...say });

/** Megabits a second that the ways out of a site carry at the most; null: there is none that is known. */
function outward({ documents, devices }: CheckContext): number | null {
  const speeds = [...documents].flatMap(([id, document]) => {
    const device = devices.get(id);
    if (document.kind !== 'gateway' || !device) return [];
    return document.uplinks.map(({ port }) => {
      const made = sheetFor(device).ports.find(({ name }) => name === port)?.speed ?? 0;
      return Math.min(made, document.ports.find(({ name }) => name === port)?.speed ?? Infinity);
    });
  });
  return speeds.length > 0 ? Math.max(...speeds) : null;
}

/** Caps that limit nothing, since the way out is narrower. */
const aboveUplink: Check = (context) => {
  const out = outward(context);
  if (out === null) return [];
  return cappedAt(context).flatMap((capped): Finding[] => {
    const above = (['client', 'all'] as const).flatMap((of) =>
      CAP_WAYS.flatMap((way) => {
        const kbps = capped.caps[of]?.[way];
        return kbps && kbps > out * 1000 ? [`${mbps(kbps)} ${way}`] : [];
      }),
    );
    if (above.length === 0) return [];
    return [
      found(capped, 'wireless.cap-above', {
        severity: 'info',
        message: `A cap of ${capped.name} is above the uplink`,
        reason: `${above.join(' and ')} limit nothing on the way out: its port carries ${out} Mb/s.`,
      }),
    ];
  });
};

/** Caps that leave a client less than a page needs. */
const starving: Check = (context) =>
  cappedAt(context).flatMap((capped): Finding[] => {
    const { caps, most } = capped;
    for (const way of CAP_WAYS) {
      const [client, all] = [caps.client?.[way] ?? null, caps.all?.[way] ?? null];
      const each = Math.min(client ?? Infinity, all === null || most === null ? Infinity : all / most, all ?? Infinity);
      if (each >= STARVES) continue;
      const crowd = all !== null && most !== null && each === all / most;
      return [
        found(capped, 'wireless.cap-starves', {
          severity: 'warning',
          message: `A cap of ${capped.name} starves its clients`,
          reason: `${mbps(each)} ${way} is left for each${crowd ? ` when all ${most} are there that may be` : ''}: a page of 2 MB takes ${Math.round(16_000 / each)} s.`,
        }),
      ];
    }
    return [];
  });

/** Caps of segments that nothing holds, since the gateway does not route them. */
const heldNowhere: Check = (context) => {
  const { site, documents } = context;
  const holder = [...documents.values()].some(({ kind }) => kind === 'gateway');
  return cappedAt(context).flatMap((capped): Finding[] => {
    const segment = site.segments.find(({ id }) => capped.place.kind === 'segment' && id === capped.place.id);
    if (!segment) return [];
    const byAp = isRoutedByAps(segment);
    if (holder && isRoutedByGateway(segment)) return [];
    return [
      found(capped, 'lattice.cap-nowhere', {
        severity: 'error',
        message: `Nothing holds the caps of ${segment.name}`,
        reason: byAp
          ? 'APs route it themselves, each for its own clients. Cap the SSIDs that lead into it instead.'
          : 'No gateway of this site routes it. Cap the SSIDs that lead into it instead, which APs hold.',
      }),
    ];
  });
};

/** Whole SSIDs whose cap is held in parts: where clients are not spread alike, less gets through than may. */
const heldInParts: Check = (context) => {
  if (!context.site.ssids.some(({ caps }) => caps?.all)) return [];
  const places = capPlaces(context);
  return context.site.ssids.flatMap((ssid): Finding[] => {
    const place = places.get(ssid.id);
    if (!ssid.caps?.all || place?.at !== 'parts') return [];
    const at: Pick<Capped, 'place'> = { place: { siteId: context.site.id, kind: 'ssid', id: ssid.id } };
    return [
      found(at, 'wireless.cap-parts', {
        severity: 'info',
        message: `The cap of “${asHeard(ssid.name)}” is held in ${place.aps} parts`,
        reason: `${place.why} Given a segment of its own, the gateway would hold it as one.`,
      }),
    ];
  });
};

export const CAP_CHECKS: readonly Check[] = [aboveUplink, starving, heldNowhere, heldInParts];

import { contains, formatIp, parseIp, parsePrefix, type Prefix } from '../../address';
import { flaw, type Flaw } from '../../base';
import { MOST_METRIC } from './route';

/** What a route may be told to follow instead of an address: whoever hands it on. */
export const NEXT_HOP = 'itself';

/** What is wrong with what is the same of every route: what it is for, its metric, and what it tracks. */
export function plainRouteFlaws(
  noun: string,
  said: {
    readonly prefix: string;
    readonly metric?: number | null | undefined;
    readonly tracks?: string | null | undefined;
    readonly via: { readonly kind: string };
  },
): { readonly flaws: Flaw[]; readonly prefix: Prefix | null } {
  const { metric, tracks, via } = said;
  const flaws: Flaw[] = [];
  if (metric !== undefined && metric !== null && !(Number.isInteger(metric) && metric >= 0 && metric <= MOST_METRIC))
    flaws.push(flaw(`${noun}.metric`, `The metric is a whole number from 0 to ${MOST_METRIC}.`, 'metric'));
  const prefix = parsePrefix(said.prefix);
  if (!prefix) {
    const what = said.prefix === '' ? 'Say for what it is' : `“${said.prefix}” is no prefix`;
    flaws.push(flaw(`${noun}.prefix`, `${what}: such as 10.60.0.0/16, or fd00:60::/32.`, 'prefix'));
    return { flaws, prefix };
  }
  if (prefix.length === 0)
    flaws.push(
      flaw(`${noun}.everything`, 'Whatever no route is for leaves by the uplinks: say those instead.', 'prefix'),
    );
  if (tracks) flaws.push(...tracksFlaws(noun, tracks, via.kind, prefix));
  return { flaws, prefix };
}

function tracksFlaws(noun: string, tracks: string, kind: string, prefix: Prefix): Flaw[] {
  const wrong = (text: string): Flaw[] => [flaw(`${noun}.tracks`, text, 'tracks')];
  if (kind === 'nowhere') return wrong('What leads nowhere is always there: nobody is asked.');
  if (tracks === NEXT_HOP)
    return kind === 'uplink' ? wrong('An uplink is watched by itself: name an address that is asked by it.') : [];
  const ip = parseIp(tracks);
  if (!ip) return wrong(`“${tracks}” is no address. Name one that answers while the route is good.`);
  if (ip.version !== prefix.version) return wrong(`The route is of IPv${prefix.version}, and ${tracks} is not.`);
  if (kind !== 'uplink' && !contains(prefix, ip))
    return wrong(`${tracks} is not reached by this route: name an address in ${said(prefix)}, or whoever hands it on.`);
  return [];
}

const said = ({ version, network, length }: Prefix): string => `${formatIp({ version, value: network })}/${length}`;

/** What a route tracks in the one way it is kept; what is none is left out. */
export function normalTracks(tracks: string | null | undefined): { readonly tracks?: string } {
  const text = tracks?.trim() ?? '';
  if (text === '') return {};
  const ip = parseIp(text);
  return { tracks: ip ? formatIp(ip) : text };
}

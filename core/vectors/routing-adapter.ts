import { formatPrefix, parsePrefix, type Prefix } from '../src/address';
import { overlayPath, redistribute } from '../src/routing';

const on = <Input>(call: (input: Input) => unknown): ((input: never) => unknown) => call;
const prefix = (text: string): Prefix => parsePrefix(text)!;

interface SaidFilter {
  readonly within: string;
  readonly ge?: number;
  readonly le?: number;
  readonly action: 'permit' | 'deny';
}

/** Functions of routing, by the names of their vectors. */
export const ROUTING_ADAPTER = {
  'route.overlay_path': on(
    (i: {
      hubs: readonly string[];
      hub_order: Readonly<Record<string, readonly string[]>>;
      tunnels_down: readonly (readonly [string, string])[];
      src: string;
      dst: string;
    }) => {
      const down = new Set(i.tunnels_down.flatMap(([a, b]) => [`${a} ${b}`, `${b} ${a}`]));
      const overlay = { hubs: i.hubs, order: i.hub_order, up: (a: string, b: string) => !down.has(`${a} ${b}`) };
      const { path, back, symmetric } = overlayPath(overlay, i.src, i.dst);
      return { path, return_path: back, symmetric };
    },
  ),
  'route.redistribute': on(
    (i: {
      routes: readonly { prefix: string; tag?: number }[];
      filter: readonly SaidFilter[];
      tag: number;
      metric: number;
    }) => ({
      exported: redistribute(
        i.routes.map(({ prefix: text, tag }) => ({ prefix: prefix(text), ...(tag === undefined ? {} : { tag }) })),
        i.filter.map(({ within, ge, le, action }) => ({
          ...{ within: prefix(within), action },
          ...(ge === undefined ? {} : { least: ge }),
          ...(le === undefined ? {} : { most: le }),
        })),
        i.tag,
        i.metric,
      ).map(({ prefix: told, metric, tag }) => ({ prefix: formatPrefix(told), metric, tag })),
    }),
  ),
};

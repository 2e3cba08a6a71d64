import type { RouteVia, StaticRoute } from '@iron-lattice/core/intent';
import { numberTyped } from '../ui/number-typed';

/** A route as its sheet reads. */
export interface RouteText {
  readonly name: string;
  readonly prefix: string;
  readonly how: RouteVia['kind'];
  /** The neighbour; counts where it is handed on. */
  readonly address: string;
  /** The uplink; counts where it leaves by one. */
  readonly port: string;
  readonly metric: string;
  /** What has to answer, `itself` or an address; empty: nobody is asked. */
  readonly tracks: string;
  readonly off: boolean;
}

/** One that is to be added. @param port the uplink that is chosen first. */
export const newRoute = (port: string): RouteText => ({
  ...{ name: '', prefix: '', how: 'address', address: '', port, metric: '', tracks: '', off: false },
});

/** A route as it would be typed. */
export function routeTextOf({ name, prefix, via, metric, tracks, off }: StaticRoute, port: string): RouteText {
  return {
    ...{ name, prefix, how: via.kind, off: off ?? false, metric: metric ? `${metric}` : '', tracks: tracks ?? '' },
    address: via.kind === 'address' ? via.address : '',
    port: via.kind === 'uplink' ? via.port : port,
  };
}

export type RouteFields = Omit<StaticRoute, 'id' | 'deviceId'>;

/** What is typed, as a route. What is no number is kept as one that no metric is, and refused. */
export const routeTyped = ({ name, prefix, how, address, port, metric, tracks, off }: RouteText): RouteFields => ({
  ...{ name, prefix },
  via: how === 'address' ? { kind: how, address } : how === 'uplink' ? { kind: how, port } : { kind: how },
  metric: metric.trim() === '' ? null : (numberTyped(metric) ?? -1),
  tracks: tracks.trim() || null,
  off: off || null,
});

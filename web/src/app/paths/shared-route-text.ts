import type { SharedReach, SharedRoute, SharedVia } from '@iron-lattice/core/intent';
import { numberTyped } from '../ui/number-typed';

/** A route of many sites as its sheet reads. */
export interface SharedRouteText {
  readonly name: string;
  readonly prefix: string;
  readonly how: SharedVia['kind'];
  /** The segment, and which of its addresses; count where it is handed on there. */
  readonly segment: string;
  readonly nth: string;
  /** The uplink as sites call it; counts where it leaves by one. */
  readonly title: string;
  readonly metric: string;
  readonly tracks: string;
  readonly reach: SharedReach;
  readonly off: boolean;
  readonly purpose: string;
}

/** One that is to be added. */
export const newSharedRoute = (reach: SharedReach): SharedRouteText => ({
  ...{ name: '', prefix: '', how: 'segment', segment: '', nth: '', title: '', metric: '', tracks: '' },
  ...{ reach, off: false, purpose: '' },
});

/** A route of many sites as it would be typed. */
export function sharedRouteText({
  name,
  prefix,
  via,
  metric,
  tracks,
  reach,
  off,
  purpose,
}: SharedRoute): SharedRouteText {
  return {
    ...{ name, prefix, how: via.kind, reach, off: off ?? false, purpose: purpose ?? '' },
    segment: via.kind === 'segment' ? via.segment : '',
    nth: via.kind === 'segment' ? `${via.nth}` : '',
    title: via.kind === 'uplink' ? via.title : '',
    metric: metric ? `${metric}` : '',
    tracks: tracks ?? '',
  };
}

/** What is typed, as a route. What is no number is kept as one that is none, and refused. */
export function sharedRouteTyped(text: SharedRouteText): Omit<SharedRoute, 'id'> {
  const { name, prefix, how, segment, nth, title, metric, tracks, reach, off, purpose } = text;
  return {
    ...{ name, prefix, reach },
    via:
      how === 'segment'
        ? { kind: how, segment, nth: numberTyped(nth) ?? 0 }
        : how === 'uplink'
          ? { kind: how, title }
          : { kind: how },
    metric: metric.trim() === '' ? null : (numberTyped(metric) ?? -1),
    tracks: tracks.trim() || null,
    off: off || null,
    purpose: purpose.trim() || null,
  };
}

import type { PathChangeView } from '@iron-lattice/core/paths';

/** What is bad, and what is good again. */
export const LOST: readonly PathChangeView['what'][] = ['gone', 'tunnel-down', 'route-gone', 'pact-down'];
export const FOUND: readonly PathChangeView['what'][] = ['back', 'tunnel-up', 'route-back', 'pact-up'];

/** What became of something, in words. @param title what the uplink is called. */
export function changeWords({ what, why, course, of = '' }: PathChangeView, title: string): string {
  switch (what) {
    case 'gone':
      return `${title} is gone. ${why}`.trim().replace(/\.$/, '');
    case 'back':
      return `${title} is good again`;
    case 'tunnel-down':
      return `no tunnel any more to ${of}. ${why}`.trim().replace(/\.$/, '');
    case 'tunnel-up':
      return `the tunnel to ${of} is up`;
    case 'route-gone':
      return `the route ${of} is gone. ${why}`.trim().replace(/\.$/, '');
    case 'route-back':
      return `the route ${of} is there again`;
    case 'pact-down':
      return `the tunnel ${of} stands no more. ${why}`.trim().replace(/\.$/, '');
    case 'pact-up':
      return `the tunnel ${of} stands`;
    case 'started':
      return 'it has power again, and begins anew';
    case 'by-hand':
      return 'what is good is used again, by hand';
    case 'steered':
      return `the course ${course ?? ''} leaves otherwise${why ? `, since ${why}` : ''}`;
    case 'took-over':
      return 'it routes now. ' + why.replace(/\.$/, '');
    case 'stands-by':
      return 'it stands by, and the other routes';
    case 'used':
      return 'what was good for long enough is used again';
  }
}

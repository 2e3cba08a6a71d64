import type { UnknownClient } from './entry.contract';

type Words = readonly [why: string, advice: string];

/** Why a client is not known, and what would help. */
export function unknownWords({
  why,
  said = '',
  server = '',
  ssid,
}: Pick<UnknownClient, 'why' | 'said' | 'server' | 'ssid'>): Words {
  switch (why) {
    case 'unlisted':
      return ['No class lists it, and no server is asked.', 'List it in a class, or add a RADIUS server.'];
    case 'rejected':
      return [`${server} does not know it.`, 'Enter it there, or list it in a class.'];
    case 'class':
      return [
        `${server} names “${said}”, and no class of that name is here.`,
        'Name a class so and have it reach this site, or correct the server.',
      ];
    case 'vlan':
      return [
        `${server} names VLAN “${said}”, which is that of no class here.`,
        'Give a class that segment, or correct the server.',
      ];
    case 'segment':
      return [`Its class “${said}” has no segment at this site.`, 'Add the segment, or choose another for the class.'];
    case 'nothing':
      return [`${server} lets it in and names no class.`, 'Have the server answer with a Filter-Id.'];
    case 'nobody':
      return [
        'No RADIUS server answers.',
        `Try one under Servers.${ssid === undefined ? ' Until then nobody new is let in.' : ''}`,
      ];
  }
}

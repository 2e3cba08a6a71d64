import type { UnknownClient } from './entry.contract';

type Words = readonly [why: string, advice: string];

/** Why a client is not known, and what would help. */
export function unknownWords({
  why,
  said = '',
  server = '',
  ssid,
  user,
}: Pick<UnknownClient, 'why' | 'said' | 'server' | 'ssid' | 'user'>): Words {
  switch (why) {
    case 'unlisted':
      return ['No class lists it, and no server is asked.', 'List it in a class, or add a RADIUS server.'];
    case 'rejected':
      return user === undefined
        ? [`${server} does not know it.`, 'Enter it there, or list it in a class.']
        : [
            `${server} turns ${user} away.`,
            'Check the name and the password in the client, and the server’s record of why.',
          ];
    case 'keyless':
      return [
        `${server} lets ${user} in by a method that makes no keys, which the air needs.`,
        'Set the client up for EAP-TTLS, PEAP or EAP-TLS.',
      ];
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
    case 'mute':
      return [
        'It is asked who it is (802.1X), and does not say.',
        'Set it up for 802.1X, or have the port ask for MAC addresses too.',
      ];
    case 'key':
      return [
        `${server} names no such key for it.`,
        'Check what it gives, or enter that key for its MAC address there.',
      ];
    case 'nowhere':
      return [
        `${server} says that its key leads to “${said}”, where keys do not lead here.`,
        'Add that segment to those that keys of the SSID may lead to, or correct the server.',
      ];
    case 'unasked':
      return [
        `${user === undefined ? 'Its key is to be named by a server' : 'It says who it is'}, and there is none to ask.`,
        user === undefined
          ? 'Add a RADIUS server that is asked about MAC addresses, or keep the keys here.'
          : 'Add a RADIUS server, or have the controller asked.',
      ];
    case 'untrusted':
      return [
        `It does not believe ${server}, and gave no password.`,
        'Have it believe the authority of that server; if it does already, somebody answers in its name.',
      ];
    case 'method':
      return [
        `${server} wants another method than it does.`,
        'Set it up for that one, or allow its own at the server.',
      ];
    case 'full':
      return ['As many as may are at its port.', 'Let the port take several, or plug it in elsewhere.'];
    case 'nobody':
      return [
        'No RADIUS server answers.',
        `Try one under Servers.${ssid === undefined ? ' Until then nobody new is let in.' : ''}`,
      ];
  }
}

/** The same in two or three words, by which failures are put together. */
export const FAILURE_REASONS: Readonly<Record<UnknownClient['why'], string>> = {
  unlisted: 'not listed',
  rejected: 'turned away',
  keyless: 'no keys made',
  class: 'class not here',
  vlan: 'VLAN not here',
  segment: 'segment missing',
  nothing: 'no class named',
  mute: 'does not say',
  key: 'no such key',
  nowhere: 'key leads nowhere',
  unasked: 'no server to ask',
  untrusted: 'server not believed',
  method: 'another method',
  full: 'port is full',
  nobody: 'no server answers',
};

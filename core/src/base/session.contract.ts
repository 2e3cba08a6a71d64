/** Who does what: changes everything, looks at everything, or gives guests their codes and sees nothing else. */
export type Role = 'administrator' | 'observer' | 'reception';

export interface PersonView {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
  /** Of reception: the sites whose guests it looks after. */
  readonly siteIds?: readonly string[];
}

/** What the event stream tells; a screen fetches again what it shows of it. */
export type LiveEvent =
  /** Devices changed; `siteIds` holds null when one of them is nobody's yet. */
  | { readonly type: 'device'; readonly siteIds: readonly (string | null)[]; readonly deviceIds: readonly string[] }
  /** Devices are no longer known. */
  | { readonly type: 'gone'; readonly deviceIds: readonly string[] }
  | { readonly type: 'firmware'; readonly batchId: string }
  | { readonly type: 'hitch' }
  | { readonly type: 'sweep'; readonly sweepId: string }
  | { readonly type: 'site'; readonly siteId: string }
  /** Of a site's air: what was heard, how a scan goes, a test of speed, a radio that left for radar, a plan that comes again. */
  | { readonly type: 'air'; readonly siteId: string; readonly what: 'heard' | 'scan' | 'speed' | 'radar' | 'plan' }
  /** How far a plan of channels is, from 0 to 1. */
  | { readonly type: 'air-plan'; readonly siteId: string; readonly done: number }
  /** Keys of a ring were made, changed or taken back (`changed`), or who uses them. */
  | { readonly type: 'ring'; readonly ssidId: string; readonly changed?: true }
  /** Visit codes of a portal changed, or visits: who came, went, was let in. */
  | { readonly type: 'guests'; readonly portalId: string; readonly what: 'codes' | 'visits' }
  /** What became of uplinks at a site. */
  | { readonly type: 'paths'; readonly siteId: string }
  /** How many gateways somebody has had looked at who asks what failures of uplinks come to. */
  | { readonly type: 'failures'; readonly done: number; readonly of: number }
  /** How mail is sent is another. */
  | { readonly type: 'mail' }
  /** Who sits at a reception changed. */
  | { readonly type: 'receptionists' }
  /** Users that the controller keeps changed, or came. */
  | { readonly type: 'users' }
  /** How many users of a list have their passwords worked out, while they are made. */
  | { readonly type: 'users-made'; readonly token: string; readonly done: number; readonly of: number }
  | { readonly type: 'draft'; readonly draftId: string; readonly head: number }
  /** How many sites somebody who is about to roll a draft out has had looked at once more. */
  | { readonly type: 'planning'; readonly draftId: string; readonly done: number; readonly of: number }
  | { readonly type: 'rollout'; readonly rolloutId: string };

/** One hit of search-or-do. */
export interface SearchHit {
  readonly kind:
    | 'site'
    | 'device'
    | 'segment'
    | 'ssid'
    | 'class'
    | 'pool'
    | 'duty'
    | 'rule'
    | 'set'
    | 'guarantee'
    | 'recipe'
    | 'hours'
    | 'portal'
    | 'radius'
    | 'course'
    | 'publication'
    | 'route'
    | 'router'
    | 'pact'
    | 'member'
    | 'translation'
    | 'user'
    | 'client';
  readonly id: string;
  readonly siteId: string | null;
  readonly title: string;
  readonly detail: string;
}

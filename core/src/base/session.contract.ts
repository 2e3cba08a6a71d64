export type Role = 'administrator' | 'observer';

export interface PersonView {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly role: Role;
}

/** What the event stream tells; a screen fetches again what it shows of it. */
export type LiveEvent =
  | { readonly type: 'device'; readonly siteId: string | null; readonly deviceId: string }
  | { readonly type: 'site'; readonly siteId: string }
  | { readonly type: 'draft'; readonly draftId: string; readonly head: number }
  | { readonly type: 'rollout'; readonly rolloutId: string };

/** One hit of search-or-do. */
export interface SearchHit {
  readonly kind: 'site' | 'device' | 'segment' | 'ssid';
  readonly id: string;
  readonly siteId: string | null;
  readonly title: string;
  readonly detail: string;
}

import { computed, inject, type Signal } from '@angular/core';
import { ActivatedRoute, Router } from '@angular/router';

/** What of entry is shown. */
export const ENTRY_VIEWS = ['Classes', 'Servers', 'Users', 'Sessions', 'Not known', 'Register'] as const;
/** Those of them that are of one site. */
export const SITE_VIEWS: readonly EntryView[] = ['Sessions', 'Not known'];
export type EntryView = (typeof ENTRY_VIEWS)[number];

/** What stands before a user’s id, or the MAC address of a client, where an address shows one. */
export const [USER_SHOWN, CLIENT_SHOWN] = ['user:', 'client:'] as const;

/** A view as an address has it. */
const wordOf = (view: EntryView): string => view.toLowerCase().replace(' ', '-');

/** The view that a page’s address asks for, itself or by what it shows; and how to go to another. Make it where injection is possible. */
export class EntryViews {
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  readonly view: Signal<EntryView> = computed(() => {
    const show = this.of.show();
    if (show?.startsWith(USER_SHOWN)) return 'Users';
    if (show?.startsWith(CLIENT_SHOWN)) return 'Register';
    if (show !== undefined && this.of.servers().some(({ id }) => id === show)) return 'Servers';
    return ENTRY_VIEWS.find((each) => wordOf(each) === this.of.as()) ?? 'Classes';
  });

  constructor(
    private readonly of: {
      readonly as: () => string | undefined;
      readonly show: () => string | undefined;
      readonly servers: () => readonly { readonly id: string }[];
    },
  ) {}

  look(view: EntryView): void {
    const queryParams = { as: view === 'Classes' ? null : wordOf(view), show: null, add: null };
    void this.router.navigate([], { relativeTo: this.route, queryParams, queryParamsHandling: 'merge' });
  }
}

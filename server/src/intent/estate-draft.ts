import { AtSites, type EstateDraft, type SharedAtSite } from '@iron-lattice/core/assess';
import type { SharedKind } from '@iron-lattice/core/intent';
import { unknown } from '../platform/app-error';
import type { DraftService } from './draft.service';
import { rosterOf } from '../roster/roster.service';
import type { OpenedDraft } from './opened-draft';
import { Site } from './intent.model';

/** What sites share as a draft has it, and what each of it is at the sites it reaches. */
export class EstateDrafts {
  /** Of drafts that were opened a moment ago: many people ask after one. */
  private readonly known = new WeakMap<OpenedDraft, Promise<AtSites>>();

  constructor(private readonly drafts: DraftService) {}

  async get(draftId: string): Promise<EstateDraft> {
    const opened = await this.drafts.recent(draftId);
    const seen = await this.seen(opened);
    const { estate } = opened.intent;
    return {
      draft: this.drafts.view(opened),
      estate,
      counts: seen.counts(),
      names: seen.names(),
    };
  }

  /** @throws AppError when there is nothing of that kind and id. */
  async atSites(draftId: string, kind: SharedKind, id: string): Promise<SharedAtSite[]> {
    const seen = await this.seen(await this.drafts.recent(draftId));
    const rows = seen.of(kind, id);
    if (!rows) throw unknown(kind === 'ssid' ? 'SSID' : kind);
    return rows;
  }

  private seen(opened: OpenedDraft): Promise<AtSites> {
    const known = this.known.get(opened);
    if (known) return known;
    const seen = Site.findAll({ attributes: ['id', 'tags'] }).then(
      (sites) =>
        new AtSites(opened.intent, opened.devices.map(rosterOf), new Map(sites.map(({ id, tags }) => [id, tags]))),
    );
    this.known.set(opened, seen);
    seen.catch(() => this.known.delete(opened)); // whoever asks next tries anew
    return seen;
  }
}

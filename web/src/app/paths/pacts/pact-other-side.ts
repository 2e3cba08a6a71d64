import { HttpClient } from '@angular/common/http';
import { Component, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Pact } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { saveFile } from '../../ui/export-rows';

/** What the people of the other gateway are given. */
@Component({
  selector: 'il-pact-other-side',
  imports: [MatButtonModule, Cell],
  template: `
    <il-cell
      label="For the people of the other gateway"
      size="full"
      hint="With the key it is noted in the journal who took it."
    >
      <button mat-stroked-button type="button" (click)="save('sheet', false)">A sheet, without the key</button>
      <button mat-button type="button" (click)="save('sheet', true)">with the key</button>
      <button mat-stroked-button type="button" (click)="save('swanctl', false)">
        A file for swanctl, without the key
      </button>
      <button mat-button type="button" (click)="save('swanctl', true)">with the key</button>
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    button {
      margin: 0 4px 4px 0;
    }
  `,
})
export class PactOtherSide {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly pact = input.required<Pact>();

  protected async save(kind: 'sheet' | 'swanctl', withKey: boolean): Promise<void> {
    await this.store.attempt(async () => {
      const draft = this.store.data()!.draft;
      const url = `/api/drafts/${draft.id}/sites/${this.store.siteId()}/pacts/${this.pact().id}/other-side`;
      const body = { kind, withKey };
      const { name, text } = await firstValueFrom(this.http.post<{ name: string; text: string }>(url, body));
      saveFile(name, new Blob([text], { type: 'text/plain' }));
      this.store.say(`Saved: ${name}`);
    });
  }
}

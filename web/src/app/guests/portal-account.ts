import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, resource } from '@angular/core';
import { ACCOUNT_BACK } from '@iron-lattice/core/guests';
import type { Problem } from '../session/problem';
import { firstValueFrom } from 'rxjs';
import { TextCell } from '../ui/text-cell';
import type { PortalText } from './portal-text';

type Typed = 'accountName' | 'issuer' | 'client' | 'accountSecret';

/** Whose accounts guests sign in with (OpenID Connect). */
@Component({
  selector: 'il-portal-account',
  imports: [TextCell],
  template: `
    @for (cell of cells(); track cell.field) {
      <il-text-cell
        [label]="cell.label"
        [for]="'portal-' + cell.field"
        [hint]="cell.hint"
        [example]="cell.example"
        [flaw]="problem()?.of(cell.said)"
        [mono]="cell.field !== 'accountName'"
        [readonly]="readonly()"
        [value]="text()[cell.field]"
        (typed)="typed(cell.field, $event)"
      />
    }
    <il-text-cell
      label="Accounts of these mail domains alone"
      for="portal-accountDomains"
      size="wide"
      [rows]="1"
      [mono]="true"
      example="skerrow.example"
      hint="A line each; empty: every account there. The address has to be proven there"
      [flaw]="problem()?.of('account.domains')"
      [readonly]="readonly()"
      [value]="text().accountDomains"
      (typed)="put.emit({ accountDomains: $event })"
    />
  `,
  styles: ':host { display: contents; }',
})
export class PortalAccount {
  private readonly http = inject(HttpClient);
  private readonly address = resource({
    loader: () => firstValueFrom(this.http.get<{ readonly url: string }>('/api/portal-address')),
  });
  readonly text = input.required<PortalText>();
  readonly problem = input.required<Problem | null>();
  readonly readonly = input.required<boolean>();
  readonly put = output<Partial<PortalText>>();

  protected typed(field: Typed, text: string): void {
    this.put.emit({ [field]: text });
  }

  protected readonly cells = computed(
    (): readonly {
      readonly field: Typed;
      readonly label: string;
      readonly hint: string;
      readonly example: string;
      readonly said: string;
    }[] => [
      {
        ...{ field: 'accountName', label: 'Account elsewhere, as guests know it', said: 'account.name' },
        ...{ hint: 'Stands on the button', example: 'Skerrow account' },
      },
      {
        ...{ field: 'issuer', label: 'Its issuer (OpenID Connect)', said: 'account.issuer' },
        ...{ hint: 'Its host is reached without signing in', example: 'https://accounts.skerrow.example' },
      },
      {
        ...{ field: 'client', label: 'Client id there', said: 'account.client', example: '' },
        hint: `Register ${this.address.value()?.url ?? '…'}${ACCOUNT_BACK} there: it sends guests back to that`,
      },
      {
        ...{ field: 'accountSecret', label: 'Client secret', said: 'account.secret', example: '' },
        hint: this.text().keptSecret ? 'Empty keeps it' : 'Empty where it gives none',
      },
    ],
  );
}

import { Component, input, output } from '@angular/core';
import { CIPHER_NAMES, CIPHERS, GROUP_NAMES, GROUPS, HASH_NAMES, HASHES, type Offer } from '@iron-lattice/core/ike';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';

const choices = <T extends string>(
  names: readonly T[],
  of: Readonly<Record<T, { readonly title: string; readonly poor?: string }>>,
): Choice[] =>
  names.map((name) => ({ value: name, label: of[name].poor ? `${of[name].title}, poor` : of[name].title }));

const ALL = {
  ciphers: choices(CIPHER_NAMES, CIPHERS),
  hashes: choices(HASH_NAMES, HASHES),
  groups: choices(GROUP_NAMES, GROUPS),
};

/** What one end offers, of the exchange or of packets: what comes first in a list is liked best. */
@Component({
  selector: 'il-pact-offer',
  imports: [ChoiceCell],
  template: `
    <il-choice-cell
      [label]="of() + ': ciphers'"
      [for]="for() + '-ciphers'"
      example="none"
      [several]="true"
      [flaw]="flaw()"
      [disabled]="readonly()"
      [options]="all.ciphers"
      [value]="offer().ciphers"
      (chosen)="put({ ciphers: ordered('ciphers', $event) })"
    />
    <il-choice-cell
      [label]="of() + ': hashes'"
      [for]="for() + '-hashes'"
      example="none"
      [several]="true"
      [disabled]="readonly()"
      [options]="all.hashes"
      [value]="offer().hashes"
      (chosen)="put({ hashes: ordered('hashes', $event) })"
    />
    <il-choice-cell
      [label]="of() + ': groups'"
      [for]="for() + '-groups'"
      example="none"
      [several]="true"
      [disabled]="readonly()"
      [options]="all.groups"
      [value]="offer().groups"
      (chosen)="put({ groups: ordered('groups', $event) })"
    />
  `,
  styles: ':host { display: contents; }',
})
export class PactOffer {
  /** Whose offer it is, as labels begin. */
  readonly of = input.required<string>();
  readonly for = input.required<string>();
  readonly offer = input.required<Offer>();
  readonly flaw = input<string | null | undefined>('');
  readonly readonly = input.required<boolean>();
  readonly changed = output<Offer>();
  protected readonly all = ALL;

  protected put(change: Partial<Offer>): void {
    this.changed.emit({ ...this.offer(), ...change });
  }

  /** What is chosen, in the order in which it stands in the list. */
  protected ordered<K extends keyof Offer>(list: K, chosen: readonly string[]): Offer[K] {
    return ALL[list].map(({ value }) => value as string).filter((each) => chosen.includes(each)) as unknown as Offer[K];
  }
}

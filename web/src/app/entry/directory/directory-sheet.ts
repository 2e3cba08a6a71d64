import { DatePipe } from '@angular/common';
import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { DIRECTORY_ADVICE, directoryFlaws, type DirectoryView } from '@iron-lattice/core/entry';
import { Problem } from '../../session/problem';
import { SessionStore } from '../../session/session-store';
import { EditForm } from '../../shell/edit-form';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { Sheet } from '../../ui/sheet';
import { TextCell } from '../../ui/text-cell';
import { DirectoryStore } from './directory-store';
import { directoryFieldsOf, directoryTextOf, securityChange, type DirectoryText } from './directory-text';
import { DirectoryTrySheet } from './directory-try';

const SECURITY: readonly Choice[] = [
  { value: 'ldaps', label: 'LDAPS' },
  { value: 'starttls', label: 'StartTLS' },
  { value: 'none', label: 'not at all' },
];
/** Fields in the order in which they stand, with what each is called. */
const TEXTS = [
  { key: 'host', label: 'Host', hint: '', example: 'directory.skerrow.example', size: 'plain' },
  { key: 'port', label: 'Port', hint: '', example: '636', size: 'plain' },
  {
    key: 'account',
    label: 'Account that searches it',
    hint: 'Its whole name; empty: nobody in particular',
    example: 'cn=lattice,ou=services,dc=skerrow,dc=example',
    size: 'wide',
  },
  { key: 'base', label: 'People are below', hint: '', example: 'ou=people,dc=skerrow,dc=example', size: 'wide' },
  {
    key: 'filter',
    label: 'Finds whoever signs in',
    hint: '{name} is the name they say (RFC 4515)',
    example: '(uid={name})',
    size: 'wide',
  },
  {
    key: 'groupAttribute',
    label: 'Groups stand in',
    hint: 'An attribute of theirs; empty: groups are searched',
    example: 'memberOf',
    size: 'plain',
  },
] as const;
const GROUPS = [
  { key: 'groupBase', label: 'Groups are below', hint: '', example: 'ou=groups,dc=skerrow,dc=example', size: 'wide' },
  {
    key: 'groupFilter',
    label: 'Finds groups of somebody',
    hint: '{dn} is their entry’s name',
    example: '(member={dn})',
    size: 'wide',
  },
] as const;
const FIELDS = [
  'host',
  'port',
  'secret',
  'authority',
  'account',
  'base',
  'filter',
  'groupAttribute',
  'groupBase',
  'groupFilter',
];

/** The directory that is asked for users who are not kept here: what is said here acts at once. */
@Component({
  selector: 'il-directory-sheet',
  imports: [DatePipe, MatButtonModule, MatCheckboxModule, Cell, ChoiceCell, DirectoryTrySheet, Sheet, TextCell],
  template: `
    <il-sheet heading="Directory" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && store.view() && !leaving()) {
        <button actions mat-stroked-button type="button" (click)="leaving.set(true)">Take away…</button>
      }
      @if (leaving()) {
        <span actions>
          <span class="caution">Its users are let in no more.</span>
          <button mat-stroked-button type="button" (click)="remove()">Forget it</button>
          <button mat-button type="button" (click)="leaving.set(false)">Leave it</button>
        </span>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="directory-fields"
          [disabled]="form.busy() || !form.differs()"
        >
          {{ store.view() ? 'Change it now' : 'Ask this directory' }}
        </button>
      }
      <form id="directory-fields" (submit)="$event.preventDefault(); keep()">
        <div class="cells">
          @if (store.view()?.health; as health) {
            <p class="cell full" [class.flaw]="health.fault" role="status">
              @if (health.fault; as fault) {
                It does not answer as it should: {{ health.words }} {{ advice[fault] }}
              } @else {
                It answers.
              }
              <span class="soft">Looked at {{ health.at | date: 'd MMM HH:mm' }}.</span>
            </p>
          }
          @for (field of texts(); track field.key) {
            <il-text-cell
              [label]="field.label"
              [for]="'directory-' + field.key"
              [size]="field.size"
              [mono]="true"
              [hint]="field.hint"
              [example]="field.example"
              [flaw]="problem()?.of(field.key)"
              [readonly]="!session.mayChange()"
              [value]="text()[field.key]"
              (typed)="put(field.key, $event)"
            />
            @if (field.key === 'port') {
              <il-choice-cell
                label="Encrypted"
                for="directory-security"
                [options]="security"
                [value]="text().security"
                [disabled]="!session.mayChange()"
                [hint]="text().security === 'none' ? 'Whoever hears it has everybody’s password' : ''"
                (chosen)="form.put(securityChange(text(), $event))"
              />
            }
            @if (field.key === 'account' && text().account !== '') {
              <il-text-cell
                label="Its password"
                for="directory-secret"
                kind="password"
                autocomplete="new-password"
                [hint]="store.view()?.hasSecret ? 'One is kept; empty: it stays' : ''"
                [flaw]="problem()?.of('secret')"
                [readonly]="!session.mayChange()"
                [value]="text().secret"
                (typed)="form.put({ secret: $event })"
              />
            }
          }
          @if (text().security !== 'none') {
            <il-text-cell
              label="Believed by the authority"
              for="directory-authority"
              size="full"
              [rows]="2"
              [mono]="true"
              hint="Its certificate as PEM; empty: those that this machine believes anyhow"
              [flaw]="problem()?.of('authority')"
              [readonly]="!session.mayChange()"
              [value]="text().authority"
              (typed)="form.put({ authority: $event })"
            />
          }
          <il-cell label="For the time being">
            <mat-checkbox
              [checked]="text().off"
              [disabled]="!session.mayChange()"
              (change)="form.put({ off: $event.checked })"
              >nobody is asked there</mat-checkbox
            >
          </il-cell>
          <p class="cell full soft">
            The account needs to search below the base and to read {{ reads() }}, and nothing else. Whoever signs in
            does so by a password (EAP-TTLS with PAP): of a challenge a directory judges nothing. Whom the controller
            keeps itself is not asked for there.
          </p>
          @if (session.mayChange()) {
            <il-directory-try [fields]="fields()" [secret]="secret()" />
          }
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class DirectorySheet {
  protected readonly store = inject(DirectoryStore);
  protected readonly session = inject(SessionStore);
  private readonly site = inject(SiteStore);
  readonly closed = output<void>();
  protected readonly security = SECURITY;
  protected readonly securityChange = securityChange;
  protected readonly advice = DIRECTORY_ADVICE;
  /** Somebody is asked whether it is to be forgotten. */
  protected readonly leaving = signal(false);
  protected readonly form = new EditForm<DirectoryView, DirectoryText>({
    kept: () => this.store.view() ?? null,
    idOf: () => 'directory',
    textOf: directoryTextOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly fields = computed(() => directoryFieldsOf(this.text()));
  protected readonly secret = computed(() => (this.text().secret === '' ? null : this.text().secret));
  protected readonly texts = computed(() => [...TEXTS, ...(this.text().groupAttribute.trim() === '' ? GROUPS : [])]);
  protected readonly reads = computed(
    () => this.text().groupAttribute.trim() || 'the names of groups and their members',
  );
  protected readonly note = computed(() =>
    this.store.view()
      ? 'Asked for whoever is not kept here; what is said acts at once.'
      : 'Asked by LDAP for whoever is not kept here, once it is said where it is.',
  );

  protected put(key: (typeof TEXTS)[number]['key'] | (typeof GROUPS)[number]['key'], value: string): void {
    this.form.put({ [key]: value });
  }

  protected async keep(): Promise<void> {
    if (!this.form.differs() || this.form.busy()) return;
    const flaws = directoryFlaws(this.fields(), this.secret() === null && this.store.view()?.hasSecret !== true);
    if (flaws.length > 0) return this.problem.set(new Problem('directory.refused', flaws[0]!.message, flaws));
    await this.form.send(() => this.store.keep(this.fields(), this.secret()));
  }

  protected async remove(): Promise<void> {
    await this.site.attempt(async () => {
      await this.store.remove();
      this.leaving.set(false);
      this.closed.emit();
    });
  }
}

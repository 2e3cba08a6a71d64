import { HttpClient } from '@angular/common/http';
import { Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MAIL_SECURITIES, type MailFields, type MailView as Mail } from '@iron-lattice/core/base';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { liveFetch } from '../shell/live-fetch';
import { anewFor } from '../ui/anew-for';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { SendTry } from './send-try';
import { SENDING_STYLES } from './sending-styles';

type Text = Omit<MailFields, 'port'> & { readonly port: string; readonly secret: string };

const WORDS: Readonly<Record<(typeof MAIL_SECURITIES)[number], string>> = {
  tls: 'TLS from the first octet (usually port 465)',
  starttls: 'STARTTLS, and nothing without it (usually port 587)',
  none: 'none: can be read on the way',
};
const SECURITIES: readonly Choice[] = MAIL_SECURITIES.map((value) => ({ value, label: WORDS[value] }));
const NEW: MailFields = {
  ...{ host: '', port: 587, security: 'starttls', user: '', from: '', fromName: '', authority: '' },
};

/** How mail is sent, and a try of it. */
@Component({
  selector: 'il-mail-view',
  imports: [FormsModule, MatButtonModule, ChoiceCell, SendTry, TextCell],
  template: `
    <form id="mail" (ngSubmit)="keep()">
      <h2>Mail</h2>
      <p class="soft note">
        {{
          live.value() === null
            ? (live.problem()?.message ?? 'Asking…')
            : mail()
              ? 'Codes go to guests by mail, and questions to whoever may say yes. What is said here acts at once, at every site.'
              : 'No mail is sent yet. Say by which server, then try it.'
        }}
      </p>
      <div class="cells">
        <il-text-cell
          label="Server"
          for="mail-host"
          [mono]="true"
          example="mail.skerrow.example"
          [flaw]="problem()?.of('host')"
          [readonly]="!session.mayChange()"
          [value]="text().host"
          (typed)="form.put({ host: $event })"
        />
        <il-text-cell
          label="TCP port"
          for="mail-port"
          [mono]="true"
          [flaw]="problem()?.of('port')"
          [readonly]="!session.mayChange()"
          [value]="text().port"
          (typed)="form.put({ port: $event })"
        />
        <il-choice-cell
          label="Encryption"
          for="mail-security"
          size="wide"
          [options]="securities"
          [disabled]="!session.mayChange()"
          [value]="text().security"
          (chosen)="form.put({ security: $event })"
        />
        <il-text-cell
          label="Signs in there as"
          for="mail-user"
          hint="Empty: nobody has to"
          autocomplete="off"
          [readonly]="!session.mayChange()"
          [value]="text().user"
          (typed)="form.put({ user: $event })"
        />
        <il-text-cell
          label="With the password"
          for="mail-secret"
          kind="password"
          autocomplete="new-password"
          [hint]="mail()?.hasSecret ? 'Empty keeps it, while the server is the same' : ''"
          [example]="mail()?.hasSecret ? 'kept' : ''"
          [flaw]="problem()?.of('secret')"
          [readonly]="!session.mayChange()"
          [value]="text().secret"
          (typed)="form.put({ secret: $event })"
        />
        <il-text-cell
          label="Mails are from"
          for="mail-from"
          size="wide"
          example="guests@skerrow.example"
          [flaw]="problem()?.of('from')"
          [readonly]="!session.mayChange()"
          [value]="text().from"
          (typed)="form.put({ from: $event })"
        />
        <il-text-cell
          label="With the name"
          for="mail-name"
          example="Skerrow Ferries"
          [flaw]="problem()?.of('fromName')"
          [readonly]="!session.mayChange()"
          [value]="text().fromName"
          (typed)="form.put({ fromName: $event })"
        />
        @if (text().security !== 'none') {
          <il-text-cell
            label="Its authority’s certificate, as PEM"
            for="mail-authority"
            size="wide"
            [mono]="true"
            [rows]="3"
            hint="Empty: those that everybody believes"
            [flaw]="problem()?.of('authority')"
            [readonly]="!session.mayChange()"
            [value]="text().authority"
            (typed)="form.put({ authority: $event })"
          />
        }
        @if (form.other(FIELDS); as message) {
          <p class="cell full flaw" role="alert">{{ message }}</p>
        }
        @if (mail() && session.mayChange()) {
          <il-send-try
            label="Try it: send a mail to"
            for="mail-try"
            example="you@skerrow.example"
            url="/api/mail/try"
            [ready]="!form.differs()"
            [version]="mail()!.version"
          />
        }
      </div>
      @if (session.mayChange()) {
        <div class="acts">
          <button mat-flat-button type="submit" [disabled]="form.busy() || !form.differs()">Keep it so</button>
          @if (mail()) {
            <button mat-stroked-button type="button" (click)="forget()">
              {{ sure() ? 'Yes, send none' : 'Send no mail any more' }}
            </button>
          }
        </div>
      }
    </form>
  `,
  styles: SENDING_STYLES,
})
export class MailView {
  private readonly http = inject(HttpClient);
  protected readonly session = inject(SessionStore);
  protected readonly securities = SECURITIES;
  protected readonly FIELDS = ['host', 'port', 'from', 'fromName', 'secret', 'authority'];
  protected readonly live = liveFetch({
    of: () => 'mail',
    fetch: () => firstValueFrom(this.http.get<{ mail: Mail | null }>('/api/mail')),
    when: ({ type }) => type === 'mail',
  });
  protected readonly mail = computed(() => this.live.value()?.mail ?? null);
  protected readonly form = new EditForm<Mail, Text>({
    kept: () => this.mail(),
    idOf: () => 'mail',
    textOf: (mail) => {
      const { port, ...fields } = mail?.fields ?? NEW;
      return { ...fields, port: `${port}`, secret: '' };
    },
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly sure = anewFor(
    () => this.mail()?.version,
    () => false,
  );

  protected async keep(): Promise<void> {
    if (!this.form.differs()) return;
    await this.form.send(async () => {
      const { secret, port, ...rest } = this.text();
      const fields = { ...rest, host: rest.host.trim(), from: rest.from.trim(), port: Number(port) };
      const version = this.form.seen()?.version ?? 0;
      await firstValueFrom(this.http.post('/api/mail', { version, fields, secret: secret === '' ? null : secret }));
      await this.live.again();
    });
  }

  protected async forget(): Promise<void> {
    if (!this.sure()) return this.sure.set(true);
    await this.form.send(async () => {
      await firstValueFrom(this.http.delete('/api/mail'));
      await this.live.again();
    });
  }
}

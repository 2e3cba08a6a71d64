import { HttpClient } from '@angular/common/http';
import { Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { TEXT_FORMS, type TextFields, type TextView as Texts } from '@iron-lattice/core/guests';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { liveFetch } from '../shell/live-fetch';
import { anewFor } from '../ui/anew-for';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { SendTry } from './send-try';
import { SENDING_STYLES } from './sending-styles';

type Text = TextFields & { readonly secret: string };

const WORDS: Readonly<Record<(typeof TEXT_FORMS)[number], string>> = { json: 'a JSON object', form: 'a form' };
const FORMS: readonly Choice[] = TEXT_FORMS.map((value) => ({ value, label: WORDS[value] }));
const NEW: TextFields = { url: '', form: 'json', to: 'to', text: 'text', more: '', header: 'Authorization' };

/** How text messages are sent, and a try of it. */
@Component({
  selector: 'il-text-view',
  imports: [FormsModule, MatButtonModule, ChoiceCell, SendTry, TextCell],
  template: `
    <form id="texts" (ngSubmit)="keep()">
      <h2>Text messages</h2>
      <p class="soft note">
        {{
          live.value() === null
            ? (live.problem()?.message ?? 'Asking…')
            : texts()
              ? 'Codes go to the phones of guests. What is said here acts at once, at every site.'
              : 'No text messages are sent yet. Say which gateway takes them by HTTP, and what it wants, then try it.'
        }}
      </p>
      <div class="cells">
        <il-text-cell
          label="Address of the gateway"
          for="texts-url"
          size="wide"
          [mono]="true"
          example="https://texts.skerrow.example/send"
          [flaw]="problem()?.of('url')"
          [readonly]="!session.mayChange()"
          [value]="text().url"
          (typed)="form.put({ url: $event })"
        />
        <il-choice-cell
          label="A message is"
          for="texts-form"
          [options]="forms"
          [disabled]="!session.mayChange()"
          [value]="text().form"
          (chosen)="form.put({ form: $event })"
        />
        <il-text-cell
          label="The number is called"
          for="texts-to"
          [mono]="true"
          [flaw]="problem()?.of('to')"
          [readonly]="!session.mayChange()"
          [value]="text().to"
          (typed)="form.put({ to: $event })"
        />
        <il-text-cell
          label="The text is called"
          for="texts-text"
          [mono]="true"
          [flaw]="problem()?.of('text')"
          [readonly]="!session.mayChange()"
          [value]="text().text"
          (typed)="form.put({ text: $event })"
        />
        <il-text-cell
          label="What else stands in it"
          for="texts-more"
          size="wide"
          [rows]="2"
          [mono]="true"
          example="sender=Skerrow"
          hint="A line each; may stay empty"
          [flaw]="problem()?.of('more')"
          [readonly]="!session.mayChange()"
          [value]="text().more"
          (typed)="form.put({ more: $event })"
        />
        <il-text-cell
          label="Who asks is said in the header field"
          for="texts-header"
          [mono]="true"
          hint="Empty: nobody has to"
          [flaw]="problem()?.of('header')"
          [readonly]="!session.mayChange()"
          [value]="text().header"
          (typed)="form.put({ header: $event })"
        />
        <il-text-cell
          label="With the value"
          for="texts-secret"
          kind="password"
          autocomplete="new-password"
          [hint]="texts()?.hasSecret ? 'Empty keeps it, while the gateway is the same' : 'Such as Bearer and a key'"
          [example]="texts()?.hasSecret ? 'kept' : ''"
          [flaw]="problem()?.of('secret')"
          [readonly]="!session.mayChange()"
          [value]="text().secret"
          (typed)="form.put({ secret: $event })"
        />
        @if (form.other(FIELDS); as message) {
          <p class="cell full flaw" role="alert">{{ message }}</p>
        }
        @if (texts() && session.mayChange()) {
          <il-send-try
            label="Try it: send a message to"
            for="texts-try"
            example="+…, with its country"
            url="/api/texts/try"
            [ready]="!form.differs()"
            [version]="texts()!.version"
          />
        }
      </div>
      @if (session.mayChange()) {
        <div class="acts">
          <button mat-flat-button type="submit" [disabled]="form.busy() || !form.differs()">Keep the gateway so</button>
          @if (texts()) {
            <button mat-stroked-button type="button" (click)="forget()">
              {{ sure() ? 'Yes, send none' : 'Send no text messages any more' }}
            </button>
          }
        </div>
      }
    </form>
  `,
  styles: SENDING_STYLES,
})
export class TextView {
  private readonly http = inject(HttpClient);
  protected readonly session = inject(SessionStore);
  protected readonly forms = FORMS;
  protected readonly FIELDS = ['url', 'to', 'text', 'more', 'header', 'secret'];
  protected readonly live = liveFetch({
    of: () => 'texts',
    fetch: () => firstValueFrom(this.http.get<{ texts: Texts | null }>('/api/texts')),
    when: ({ type }) => type === 'mail',
  });
  protected readonly texts = computed(() => this.live.value()?.texts ?? null);
  protected readonly form = new EditForm<Texts, Text>({
    kept: () => this.texts(),
    idOf: () => 'texts',
    textOf: (texts) => ({ ...(texts?.fields ?? NEW), secret: '' }),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly sure = anewFor(
    () => this.texts()?.version,
    () => false,
  );

  protected async keep(): Promise<void> {
    if (!this.form.differs()) return;
    await this.form.send(async () => {
      const { secret, ...rest } = this.text();
      const fields = { ...rest, url: rest.url.trim(), header: rest.header.trim() };
      const version = this.form.seen()?.version ?? 0;
      await firstValueFrom(this.http.post('/api/texts', { version, fields, secret: secret === '' ? null : secret }));
      await this.live.again();
    });
  }

  protected async forget(): Promise<void> {
    if (!this.sure()) return this.sure.set(true);
    await this.form.send(async () => {
      await firstValueFrom(this.http.delete('/api/texts'));
      await this.live.again();
    });
  }
}

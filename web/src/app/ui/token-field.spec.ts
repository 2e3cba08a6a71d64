import { Component, signal, viewChild } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { type } from '../testing/site-fixture';
import { TokenField, type Token, type TokenSource } from './token-field';

const token = (text: string): Token => ({ text, label: text, kind: 'thing', bad: text.startsWith('?') });
const source: TokenSource = {
  read: (text) =>
    text
      .split(/[,\n]/)
      .map((part) => part.trim())
      .filter((part) => part !== '')
      .map(token),
  join: (tokens) => tokens.map(({ text }) => text).join(', '),
  options: ['any', 'crew', 'cameras', 'cards'].map(token),
  separator: ',',
  all: 'any',
};

@Component({
  imports: [TokenField],
  template: `<il-token-field
    label="Ends"
    for="ends"
    [value]="value()"
    [source]="source"
    [takes]="takes"
    (typed)="value.set($event)"
    (done)="done.set(done() + 1)"
  />`,
})
class Host {
  readonly value = signal('any');
  readonly done = signal(0);
  readonly source = source;
  readonly taken: string[] = [];
  readonly takes = (text: string): boolean => text.startsWith('can ') && this.taken.push(text) > 0;
  readonly field = viewChild.required(TokenField);
}

const CODES: Readonly<Record<string, number>> = { Enter: 13, Tab: 9, ArrowDown: 40, Delete: 46 };

describe('TokenField', () => {
  const setUp = async () => {
    const fixture = TestBed.createComponent(Host);
    const page = fixture.nativeElement as HTMLElement;
    document.body.append(page);
    await fixture.whenStable();
    const box = (): HTMLInputElement => page.querySelector('#ends')!;
    const key = async (name: string, on: HTMLElement = box()): Promise<void> => {
      const keyCode = CODES[name] ?? 0; // what Material goes by
      on.dispatchEvent(new KeyboardEvent('keydown', { key: name, keyCode, bubbles: true, cancelable: true }));
      await fixture.whenStable();
    };
    const write = async (text: string): Promise<void> => {
      box().focus();
      type(box(), text);
      await fixture.whenStable();
    };
    const shown = (): string[] =>
      [...page.querySelectorAll('mat-chip-row')].map((chip) => chip.textContent.replace(/\s+/g, ' ').trim());
    return { host: fixture.componentInstance, fixture, page, box, key, write, shown };
  };
  afterEach(() => document.querySelectorAll('.cdk-overlay-container').forEach((each) => each.remove()));

  it('makes a token of what is typed with Enter or the separator, and the one that means all goes', async () => {
    const { host, write, key, shown, box } = await setUp();
    expect(shown()).toEqual(['thing any ×']);
    await write('crew');
    await key(',');
    expect(host.value()).toBe('crew');
    await write('10.1.1.1');
    await key('Enter');
    expect(host.value()).toBe('crew, 10.1.1.1');
    expect(shown()).toEqual(['thing crew ×', 'thing 10.1.1.1 ×']);
    expect(box().value).toBe('');
    await key('Enter');
    expect(host.done()).toBe(1);
  });

  it('keeps what stands there when somebody goes on, and a separator within quotes', async () => {
    const { host, write, key, box, fixture } = await setUp();
    await write('"a');
    await key(',');
    expect(host.value()).toBe('any');
    await write('cameras');
    await key('Tab');
    box().dispatchEvent(new Event('blur'));
    await fixture.whenStable();
    expect(host.value()).toBe('cameras');
  });

  it('offers what fits and is not there yet, those that begin so first, and takes what is chosen', async () => {
    const { host, write, key, fixture } = await setUp();
    await write('ca');
    const options = () => [...document.querySelectorAll('mat-option')].map((each) => each.textContent.trim());
    expect(options()).toEqual(['cameras thing', 'cards thing']);
    await key('ArrowDown');
    await key('ArrowDown');
    await key('Enter');
    await fixture.whenStable();
    expect(host.value()).toBe('cameras');
  });

  it('parts what is pasted, takes out, and edits in place', async () => {
    const { host, page, box, shown, key, fixture } = await setUp();
    const clipboardData = { getData: () => 'crew, cards\n?x' };
    box().dispatchEvent(Object.assign(new Event('paste', { bubbles: true, cancelable: true }), { clipboardData }));
    await fixture.whenStable();
    expect(host.value()).toBe('crew, cards, ?x');
    expect(page.querySelectorAll('mat-chip-row.bad')).toHaveLength(1);
    page.querySelector<HTMLElement>('[aria-label="Take out cards"]')!.click();
    await fixture.whenStable();
    expect(shown()).toEqual(['thing crew ×', 'thing ?x ×']);
    await key('Delete', page.querySelector<HTMLElement>('mat-chip-row')!);
    expect(host.value()).toBe('?x');
  });

  it('hands a whole sentence on before it becomes a token', async () => {
    const { host, write, key } = await setUp();
    await write('can crew reach cards');
    await key('Enter');
    expect([host.taken, host.value()]).toEqual([['can crew reach cards'], 'any']);
  });
});

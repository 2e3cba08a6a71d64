import { TestBed } from '@angular/core/testing';
import type { DifferenceLine } from '@iron-lattice/core/document';
import { DifferenceLines } from './difference-lines';

describe('DifferenceLines', () => {
  const read = async (line: DifferenceLine): Promise<string> => {
    const fixture = TestBed.createComponent(DifferenceLines);
    fixture.componentRef.setInput('lines', [line]);
    await fixture.whenStable();
    const cells = [...(fixture.nativeElement as HTMLElement).querySelectorAll('li > span')];
    return cells.map((cell) => cell.textContent.replace(/\s+/g, ' ').trim()).join(' ');
  };

  it('reads in words', async () => {
    expect(await read({ op: 'add', path: ['ports', '7', 'tagged'], before: null, after: '40' })).toBe(
      '+ port › 7 › tagged 40',
    );
    expect(await read({ op: 'remove', path: ['ports', '7', 'tagged'], before: '40', after: null })).toBe(
      '− port › 7 › tagged 40',
    );
    expect(await read({ op: 'change', path: ['device', 'name'], before: 'a', after: 'b' })).toBe('~ device › name a b');
  });

  it('says nothing where a document says null', async () => {
    const path = ['ports', '7', 'untagged'];
    expect(await read({ op: 'change', path, before: '1', after: 'null' })).toBe('~ port › 7 › untagged 1 nothing');
  });

  it('never shows a secret’s reference', async () => {
    const path = ['ssids', 'Deck', 'passphrase', 'secret'];
    expect(await read({ op: 'change', path, before: 'ref-1', after: 'ref-2' })).toBe(
      '~ SSID › Deck › passphrase a new one',
    );
    expect(await read({ op: 'remove', path, before: 'ref-1', after: null })).toBe(
      '− SSID › Deck › passphrase taken away',
    );
  });
});

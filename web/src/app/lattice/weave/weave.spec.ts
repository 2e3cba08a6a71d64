import { signal } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { GridColumn, GridRow } from '@iron-lattice/core/lattice';
import { Theme } from '../../shell/theme';
import { Weave } from './weave';

const columns: GridColumn[] = [
  { key: 'ssid:1', group: 'On the air', label: 'Deck' },
  { key: 'device:a', group: 'Access points', label: 'ap-01', deviceId: 'a' },
  { key: 'port:s:7', group: 'sw-01', label: 'port 7', deviceId: 's', port: '7' },
  { key: 'device:g', group: 'Gateway', label: 'gw-01', deviceId: 'g' },
];
const segment = (id: string, name: string, vlan: number) => ({
  id,
  name,
  vlan,
  subnet: `10.0.${vlan}.0/24`,
  gateway: '',
  addresses: null,
});
const rows: GridRow[] = [
  {
    segment: segment('m', 'Management', 1),
    cells: { 'device:a': 'untagged', 'port:s:7': 'untagged', 'device:g': 'routed' },
    missing: [],
  },
  {
    segment: segment('d', 'Deck', 40),
    cells: { 'ssid:1': 'broadcast', 'device:a': 'tagged', 'port:s:7': 'missing', 'device:g': 'routed' },
    missing: ['port:s:7'],
  },
];
const marks = new Map([
  ['m', { letter: 'M', colour: 0 }],
  ['d', { letter: 'D', colour: 1 }],
]);

describe('Weave', () => {
  let fixture: ComponentFixture<Weave>;
  let page: HTMLElement;
  beforeEach(async () => {
    TestBed.overrideProvider(Theme, { useValue: { name: signal('light') } });
    fixture = TestBed.createComponent(Weave);
    fixture.componentRef.setInput('columns', columns);
    fixture.componentRef.setInput('rows', rows);
    fixture.componentRef.setInput('marks', marks);
    await fixture.whenStable();
    page = fixture.nativeElement as HTMLElement;
    document.body.append(page);
  });
  afterEach(() => page.remove());

  const named = (name: string) => page.querySelector<HTMLElement>(`[aria-label="${name}"]`)!;
  const press = (key: string) =>
    document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));

  it('says every crossing in words, and leaves out where a segment does not pass', () => {
    expect([...page.querySelectorAll('[role=gridcell]')].map((cell) => cell.getAttribute('aria-label'))).toEqual([
      'Management, Access points ap-01: untagged',
      'Management, sw-01 port 7: untagged',
      'Management, Gateway gw-01: routed',
      'Deck, On the air Deck: broadcast',
      'Deck, Access points ap-01: tagged',
      'Deck, sw-01 port 7: missing here',
      'Deck, Gateway gw-01: routed',
    ]);
  });

  it('is walked with the arrow keys, over places where nothing passes', () => {
    named('Deck, On the air Deck: broadcast').focus();
    press('ArrowUp'); // management is not on the air
    expect(document.activeElement).toBe(named('Deck, On the air Deck: broadcast'));
    press('ArrowRight');
    press('ArrowUp');
    expect(document.activeElement).toBe(named('Management, Access points ap-01: untagged'));
    press('ArrowLeft');
    expect(document.activeElement!.textContent).toContain('Management');
  });

  it('tells which crossing was chosen', () => {
    const chosen: unknown[] = [];
    fixture.componentInstance.choose.subscribe((choice) => chosen.push(choice));
    named('Deck, sw-01 port 7: missing here').focus();
    press('Enter');
    page.querySelector<HTMLButtonElement>('.pick')!.click();
    expect(chosen).toEqual([
      { segmentId: 'd', columnKey: 'port:s:7' },
      { segmentId: 'm', columnKey: null },
    ]);
  });

  it('offers a port that a segment does not pass, by keyboard and by press, and nothing else that it does not meet', async () => {
    const till: GridRow = { segment: segment('t', 'Till', 50), cells: { 'device:g': 'routed' }, missing: [] };
    fixture.componentRef.setInput('rows', [till]);
    await fixture.whenStable();
    const labels = () => [...page.querySelectorAll('[role=gridcell]')].map((cell) => cell.getAttribute('aria-label'));
    expect(labels()).toEqual(['Till, Gateway gw-01: routed']);
    const chosen: unknown[] = [];
    fixture.componentInstance.choose.subscribe((choice) => chosen.push(choice));
    named('Till, Gateway gw-01: routed').focus();
    press('ArrowLeft');
    expect(document.activeElement).toBe(named('Till, sw-01 port 7: does not pass'));
    press('Enter');
    named('Till, sw-01 port 7: does not pass').click();
    const there = { segmentId: 't', columnKey: 'port:s:7' };
    expect(chosen).toEqual([there, there]);
    press('ArrowLeft'); // over what is no port, to the name
    expect(document.activeElement!.textContent).toContain('Till');
  });
});

import { Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { sampleId } from '@iron-lattice/core/testing';
import { SiteFixture } from '../testing/site-fixture';
import { KnownAs } from './known-as';

@Component({
  imports: [KnownAs],
  template: `<il-known-as for="as" [mac]="mac()" (chosen)="mac.set($event)" />`,
})
class Host {
  readonly mac = signal('');
}

describe('KnownAs', () => {
  it('takes a MAC address however it is written, and keeps what is typed while it is none', async () => {
    const site = new SiteFixture({ segments: 3, aps: 1 });
    TestBed.configureTestingModule({ providers: site.providers });
    const store = await site.open();
    const host = TestBed.createComponent(Host);
    TestBed.tick();
    expect((host.nativeElement as HTMLElement).querySelector('input')).toBeNull(); // nobody would know it
    const edited = store.edit([
      {
        type: 'class.add',
        accessClass: {
          ...{ id: sampleId(8, 0), name: 'Gates', segment: 'Segment 1', reach: { kind: 'estate' } },
          members: [{ mac: '0e:c4:60:00:00:01', name: 'Pier gate' }],
        },
      },
    ]);
    await site.answer();
    await edited;
    const field = (host.nativeElement as HTMLElement).querySelector('input')!;
    const type = (text: string): string => {
      field.value = text;
      field.dispatchEvent(new Event('input'));
      TestBed.tick();
      return `${host.componentInstance.mac()} ${field.value}`;
    };
    expect(type('0EC4.6000.0007')).toBe('0e:c4:60:00:00:07 0e:c4:60:00:00:07');
    expect(type('0e:c4:60:00:00:0')).toBe(' 0e:c4:60:00:00:0');
    expect((host.nativeElement as HTMLElement).textContent).toContain('No MAC address');
    expect(type('Pier gate, of Gates')).toBe('0e:c4:60:00:00:01 Pier gate, of Gates');
    expect(type('')).toBe(' ');
  });
});

import { TestBed } from '@angular/core/testing';
import { SERIAL_COLUMNS, checkSerialList } from '@iron-lattice/core/intake';
import { SiteFixture, byText } from '../testing/site-fixture';
import { FindByList } from './find-by-list';

/** Answers as the controller would: with core's own check. */
const answerTo = (text: string): object => {
  const checked = checkSerialList(
    text.split('\n').map((line) => line.split(',')),
    {
      sites: [{ id: 'S', name: 'Pier', code: 'pr' }],
      models: new Set(['AP-6']),
      serials: new Map(),
      names: new Map(),
      macs: new Map(),
      siteId: 'S',
    },
  );
  const good = checked.rows.filter((row) => row.good).length;
  return { ...checked, token: 't', good, bad: checked.rows.length - good };
};

describe('FindByList', () => {
  beforeEach(() => void vi.spyOn(HTMLElement.prototype, 'clientHeight', 'get').mockReturnValue(400));
  afterEach(() => vi.restoreAllMocks());

  const setUp = async (list: string) => {
    const site = new SiteFixture();
    site.answers.set('/api/serial-lists?siteId=S', () => answerTo(list));
    site.answers.set('/import', () => ({ imported: 1 }));
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(FindByList);
    fixture.componentRef.setInput('siteId', 'S');
    const settle = async (): Promise<void> => {
      for (let i = 0; i < 3; i++) {
        TestBed.tick();
        await site.answer();
        await new Promise((resolve) => setTimeout(resolve, 20));
      }
    };
    await settle();
    const page = fixture.nativeElement as HTMLElement;
    const press = async (text: string | RegExp): Promise<void> => {
      byText(page, 'button', text).click();
      await settle();
    };
    const field = page.querySelector('textarea')!;
    field.value = list;
    field.dispatchEvent(new Event('input'));
    await settle();
    await press('Look at it');
    const lines = () =>
      [...page.querySelectorAll('il-list-preview .line:not(.head)')].map((line) => line.textContent.trim());
    return { site, fixture, page, press, lines };
  };

  it('marks each row good or says what is wrong with it, and shows only the columns that are filled', async () => {
    const { page, press, lines } = await setUp('AB-1000,AP-6\n1.2E+11,AP-6\nAB-1001,AP-9');
    expect(page.textContent).toContain('2 not');
    expect([...page.querySelectorAll('il-list-preview .head span')].map((each) => each.textContent)).toEqual([
      'Line',
      'Serial',
      'Model',
      'Is',
    ]);
    expect(lines()).toHaveLength(3);
    await press(/^Not good/);
    expect(lines().map((line) => /✗ (.{12})/.exec(line)![1])).toEqual(['“1.2E+11” is', 'There is no ']);
    expect(page.querySelectorAll('.line .bad.mono')).toHaveLength(2);
  });

  it('imports the good rows only when somebody says so, or none', async () => {
    const { site, page, press, fixture } = await setUp('AB-1000,AP-6\nAB-1001,AP-9');
    const done: unknown[] = [];
    fixture.componentInstance.done.subscribe(() => done.push(1));
    await press('None: bring another list');
    expect(page.querySelector('textarea')).not.toBeNull();
    await press('Look at it');
    await press('Expect the 1 good, leave out 1');
    expect(site.asked.at(-1)).toMatchObject({ body: { token: 't', leaveOutBad: true } });
    expect(done).toHaveLength(1);
  });

  it('takes a list without faults at one press', async () => {
    const { site, press } = await setUp('AB-1000,AP-6');
    await press('Expect 1 devices');
    expect(site.asked.at(-1)).toMatchObject({ body: { token: 't', leaveOutBad: false } });
  });

  it('says what is wrong with the list as a whole', async () => {
    expect(SERIAL_COLUMNS[0]!.required).toBe(true);
    const { page } = await setUp('model,site\nAP-6,Pier');
    expect(page.querySelector('[role=alert]')!.textContent).toContain('The list has no column “serial”.');
  });
});

import { TestBed } from '@angular/core/testing';
import type { WalkResult } from '@iron-lattice/core/bench';
import { WalkTrace } from './walk-trace';

const step = (kind: 'associate' | 'link', passed: boolean, title: string) => ({
  kind,
  passed,
  title,
  detail: `Why ${title}.`,
  decidedBy: { kind: 'port' as const, id: 'x', name: 'sw-01 port 7' },
});

describe('WalkTrace', () => {
  const show = async (walk: WalkResult | null, problem = '') => {
    const fixture = TestBed.createComponent(WalkTrace);
    fixture.componentRef.setInput('heading', 'On the draft');
    fixture.componentRef.setInput('walk', walk);
    fixture.componentRef.setInput('problem', problem);
    await fixture.whenStable();
    return fixture.nativeElement as HTMLElement;
  };

  it('tells each step with what decided it, and where it stopped', async () => {
    const page = await show({
      on: 'draft',
      arrived: false,
      steps: [step('associate', true, 'Associated'), step('link', false, 'Stopped at sw-01 port 7')],
    });
    expect(page.querySelector('.outcome')!.textContent.trim()).toBe('Stopped at step 2');
    expect([...page.querySelectorAll('li')].map((item) => item.textContent.replace(/\s+/g, ' ').trim())).toEqual([
      'Associated, passed. Why Associated. decided by sw-01 port 7',
      'Stopped at sw-01 port 7, stopped. Why Stopped at sw-01 port 7. decided by sw-01 port 7',
    ]);
    expect(page.querySelectorAll('li.stopped')).toHaveLength(1);
  });

  it('says that it walks, that it arrived, or why it could not be walked', async () => {
    expect((await show(null)).textContent).toContain('Walking…');
    expect((await show({ on: 'live', arrived: true, steps: [], to: '10.1.2.3' })).textContent).toContain(
      'Arrived: nothing stops it on its way to 10.1.2.3',
    );
    expect((await show({ on: 'live', arrived: true, steps: [] })).textContent).toContain(
      'Arrived: the internet answers',
    );
    expect((await show(null, 'No such site.')).querySelector('[role=alert]')!.textContent).toBe('No such site.');
  });
});

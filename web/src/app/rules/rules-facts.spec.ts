import { TestBed } from '@angular/core/testing';
import { SiteFixture } from '../testing/site-fixture';
import type { RuleHits } from '../shell/rule-hits';
import { RulesFacts } from './rules-facts';

const DAY = 86_400_000;
const NOW = Date.parse('2026-11-24T12:00:00Z');
const ago = (days: number): string => new Date(NOW - days * DAY).toISOString();
const hits = (packets: number, since: number, last: number | null): RuleHits => ({
  ruleId: 'r',
  packets,
  since: ago(since),
  lastAt: last === null ? null : ago(last),
  notes: [],
});

describe('RulesFacts', () => {
  const setUp = async () => {
    const site = new SiteFixture();
    site.answers.set('/rule-hits', () => []);
    TestBed.configureTestingModule({ providers: [...site.providers, RulesFacts] });
    const store = await site.open();
    const facts = TestBed.inject(RulesFacts);
    await site.answer();
    return { site, store, facts };
  };

  it('tells a rule that is decided by from one that has been quiet for thirty days, and from one that is new', async () => {
    const { facts } = await setUp();
    expect(facts.hitWords(undefined, NOW)).toBe('');
    expect(facts.hitWords(hits(12_345, 90, 1), NOW)).toBe('12,345');
    expect(facts.hitWords(hits(7, 90, 29.9), NOW)).toBe('7');
    expect(facts.hitWords(hits(7, 90, 30.1), NOW)).toBe('not hit in 30 days');
    expect(facts.hitWords(hits(0, 31, null), NOW)).toBe('not hit in 30 days');
    expect(facts.hitWords(hits(0, 29, null), NOW)).toBe('none yet');
  });

  it('knows every name that an end may be typed as, of the site and of what the estate shares with it', async () => {
    const { site, store, facts } = await setUp();
    const here = { kind: 'estate' as const };
    const away = { kind: 'sites' as const, siteIds: ['00000000-0000-4000-8000-000000000000'] };
    const one = { segment: 'Segment 1', members: [] };
    const edited = store.edit([
      { type: 'class.add', accessClass: { id: '1', name: 'Scanners', ...one, reach: here } },
      { type: 'class.add', accessClass: { id: '2', name: 'Elsewhere', ...one, reach: away } },
      { type: 'set.add', shared: true, set: { id: '3', name: 'Payment hosts', addresses: ['198.51.100.40/30'] } },
    ]);
    await site.answer();
    await edited;
    const { segment, ssid, class: classes, set, device } = facts.known();
    expect([segment, ssid]).toEqual([
      ['Management', 'Segment 1', 'Segment 2'],
      ['SSID 1', 'SSID 2'],
    ]);
    expect([classes, set]).toEqual([['Scanners'], ['Payment hosts']]);
    expect(device).toContain('x-gw-01');
  });
});

import { describe, expect, test } from 'vitest';
import type { Band } from '../hardware';
import { WIDTHS, type Width } from '../radio';
import { legalBlocks, radarDuty, RADIO_DOMAINS, radioDomainOf, rulesOfCountry } from '.';

const centres = (country: string, band: Band, width: Width) =>
  legalBlocks(rulesOfCountry(country), band, width).map(({ centre }) => centre);

describe('channels of a country', () => {
  test('are whole: none reaches into what is not allowed', () => {
    expect(centres('IE', '5', 160)).toEqual([50, 114]);
    expect(centres('US', '5', 160)).toEqual([50, 114]);
    expect(centres('CA', '5', 160)).toEqual([50]);
    expect(centres('CA', '5', 80)).toEqual([42, 58, 106, 138, 155]);
    expect(centres('IE', '6', 160)).toEqual([15, 47, 79]);
    expect(centres('US', '2.4', 40)).toEqual([3, 4, 5, 6, 7, 8, 9]);
    expect(centres('BR', '5', 80)).toEqual([42]); // no rules of ours: what is legal nearly everywhere
    expect(centres('BR', '6', 20)).toEqual([]);
  });

  test('send with the least that any stretch under them allows, and with more where each MHz is limited', () => {
    const eirp = (country: string, band: Band, width: Width, centre: number) =>
      legalBlocks(rulesOfCountry(country), band, width).find((block) => block.centre === centre)!.eirp;
    expect(eirp('IE', '5', 160, 50)).toBe(20);
    expect(eirp('IE', '5', 80, 106)).toBe(27);
    expect(eirp('US', '6', 20, 37)).toBeCloseTo(18, 1);
    expect(eirp('US', '6', 320, 31)).toBe(30);
    expect(eirp('IE', '6', 20, 37)).toBe(23);
  });

  test('owe to radar what any part of them does', () => {
    const duty = (code: 'ETSI' | 'FCC' | 'UK', mhz: number, width: number) => radarDuty(code, mhz, width);
    expect(duty('ETSI', 5180, 20)).toEqual({ radar: false, listenSeconds: 0, restSeconds: 0 });
    expect(duty('ETSI', 5250, 160)).toEqual({ radar: true, listenSeconds: 60, restSeconds: 1800 });
    expect(duty('ETSI', 5610, 80).listenSeconds).toBe(600);
    expect(duty('UK', 5610, 80).listenSeconds).toBe(600);
    expect(duty('FCC', 5610, 80).listenSeconds).toBe(60);
    expect(duty('ETSI', 5660, 20).listenSeconds).toBe(60); // channel 132 begins where weather radar ends
  });

  test('are said to listen for radar exactly where the rules say so', () => {
    for (const domain of RADIO_DOMAINS)
      for (const width of WIDTHS)
        for (const { members, duty } of legalBlocks(domain, '5', width)) {
          const radar = domain.rules.some(
            (rule) => rule.radar && members.some((each) => each >= rule.channels[0] && each <= rule.channels[1]),
          );
          expect(duty.radar).toBe(radar);
        }
    expect(radioDomainOf('IE')!.rules.length).toBeGreaterThan(3);
  });
});

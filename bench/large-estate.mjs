// Estates and worlds of any size for benchmarks, in the form of the demo's files.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

const mac = (n) =>
  (0x025a20000000 + n)
    .toString(16)
    .padStart(12, '0')
    .replace(/(..)(?=.)/g, '$1:');

/**
 * Writes `estate.json` and `world.json`: sites alike, each a gateway, switches of 20 APs, APs, and segments of
 * which the first eight are sent by every AP. Of more SSIDs than eight each site sends the first, which all have, and seven of the others.
 */
export function writeLargeEstate(folder, { sites, devicesPerSite, segments, ssids, rules = 0 }) {
  const world = {
    format: 'iron-lattice.world/1',
    devices: [],
    cables: [],
    providers: [{ name: 'Tidewire', gives: {} }],
    clients: [],
  };
  let count = 0;
  const estate = {
    name: 'Bench estate',
    people: [{ name: 'Bo Ench', email: 'bench@skerrow.example', role: 'administrator', password: 'bench-password' }],
    ssids: [],
    sites: [],
  };
  const sent = Math.min(8, segments - 1);
  for (let s = 0; s < sites; s++) {
    const switches = Math.ceil((devicesPerSite - 1) / 21);
    const site = {
      name: `Site ${s + 1}`,
      code: `s${s + 1}`,
      country: 'IE',
      timeZone: 'Europe/Dublin',
      segments: [],
      devices: [],
      ports: [],
    };
    for (let i = 0; i < segments; i++) {
      const vlan = i === 0 ? 1 : i * 10;
      // Up to 250 sites have an octet of their own; more share, which a benchmark may.
      const base = `10.${(s % 254) + 1}.${vlan}`;
      const addresses = { first: `${base}.20`, last: `${base}.254`, leaseSeconds: 28800 };
      site.segments.push({
        name: i === 0 ? 'Management' : `Segment ${i}`,
        vlan,
        subnet: `${base}.0/24`,
        gateway: `${base}.1`,
        addresses,
      });
    }
    const add = (name, model) => {
      const device = {
        name: `s${s + 1}-${name}`,
        serial: `B-${String(++count).padStart(6, '0')}`,
        model,
        mac: mac(count),
        firmware: '1.0.0',
      };
      site.devices.push(device);
      const { serial, mac: address, firmware } = device;
      world.devices.push({ serial, model, mac: address, firmware });
      return device;
    };
    const gateway = add('gw-01', 'GW-4');
    world.providers[0].gives[`${gateway.serial}:wan1`] = '203.0.113.9';
    const chain = Array.from({ length: switches }, (_, i) => add(`sw-${i + 1}`, 'SW-24P'));
    chain.forEach((each, i) =>
      world.cables.push(
        i === 0 ? [`${gateway.serial}:1`, `${each.serial}:25`] : [`${chain[i - 1].serial}:26`, `${each.serial}:25`],
      ),
    );
    for (let i = 0; i < devicesPerSite - 1 - switches; i++) {
      const ap = add(`ap-${i + 1}`, 'AP-6E');
      const at = chain[Math.floor(i / 20)];
      const port = String((i % 20) + 1);
      world.cables.push([`${at.serial}:${port}`, `${ap.serial}:lan`]);
      const tagged = Array.from({ length: sent }, (_, k) => `Segment ${k + 1}`);
      site.ports.push({ device: at.name, port, untagged: 'Management', tagged });
    }
    estate.sites.push(site);
  }
  const all = ssids ?? sent;
  for (let k = 1; k <= all; k++) {
    const isHere = (s) => k === 1 || all <= sent || (s + k) % (all - 1) < sent - 1;
    const names = estate.sites.filter((_, s) => isHere(s)).map((site) => site.name);
    estate.ssids.push({
      name: `SSID ${k}`,
      security: 'wpa2-wpa3-psk',
      passphrase: `passphrase-${k}`,
      bands: ['2.4', '5'],
      segment: `Segment ${((k - 1) % sent) + 1}`,
      sites: names,
    });
  }
  if (rules > 0) estate.rulesBefore = Array.from({ length: rules }, (_, i) => ruleOf(i, segments));
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'estate.json'), JSON.stringify(estate));
  writeFileSync(join(folder, 'world.json'), JSON.stringify(world));
  return { estate: join(folder, 'estate.json'), world: join(folder, 'world.json'), devices: count };
}

/** Rules that sites share: from one segment to another, at ports of its own each, every third for a network outside. */
function ruleOf(i, segments) {
  const [from, to] = [1 + (i % (segments - 1)), 1 + ((i * 5 + 3) % (segments - 1))];
  return {
    verdict: i % 2 === 0 ? 'deny' : 'allow',
    from: `segment Segment ${from}`,
    to: i % 3 === 0 ? `198.51.${i % 100}.0/24` : `segment Segment ${to}`,
    services: `${i % 4 === 0 ? 'udp' : 'tcp'} ${1000 + i}-${1004 + i}`,
    comment: `Rule ${i + 1}`,
  };
}

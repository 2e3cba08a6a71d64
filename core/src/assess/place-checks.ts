import { meetsAny } from '../address';
import { sheetFor } from '../hardware';
import type { Link, ResolvedSite, RosterDevice, Segment } from '../intent';
import { areAttached, besideOf, homeOf, listsOfAir, ruleName, sharedEnds, type PolicyRow } from '../rollout';
import {
  answerTo,
  answeredRule,
  begunByClients,
  examplePacket,
  matchedIn,
  packetWords,
  VERSIONS,
  writeEnds,
  type Packet,
  type PacketRule,
  type Passage,
  type Rule,
} from '../rules';
import type { Finding, Mend } from './finding';
import type { PolicyView } from './policy-view';
import { placeOf } from './rule-checks';
import { own, ruleFound as found } from './rule-found';

/** Faults of where rules take effect: nowhere, for some of those they mean, or on answers too. */
export function placeFindings(
  site: ResolvedSite,
  view: PolicyView,
  roster: readonly RosterDevice[],
  links: readonly Link[],
): Finding[] {
  const written = view.made.rows.filter((row) => row.applies && own(row));
  return [
    ...written.flatMap((row) => nowhere(site, view, row)),
    ...written.flatMap((row) => beyond(site, view, row)),
    ...written.flatMap((row) => inPart(site, view, row, roster, links)),
    ...cutAnswers(site, view),
  ];
}

/** Lets the place that can do it be chosen again, or names another. */
const place = (site: ResolvedSite, row: PolicyRow, at: 'gateway' | null, label: string): Mend => ({
  label,
  operations: [
    {
      type: 'rule.set',
      ruleId: row.rule.id,
      from: { at: row.rule.at ?? null },
      to: { at },
      ...placeOf(site, row),
    },
  ],
});

const segmentOf = (site: ResolvedSite, id: string): Segment => site.segments.find((each) => each.id === id)!;

function nowhere(site: ResolvedSite, view: PolicyView, row: PolicyRow): Finding[] {
  const { places, packets } = view.made;
  const { rule } = row;
  const home = homeOf(packets.get(rule.id)!, places);
  const none = (reason: string, mend: Mend | null): Finding[] => [
    found(site, rule.id, 'rules.unpassed', 'warning', {
      message: `“${ruleName(rule)}” has no place where it could take effect`,
      reason,
      mend,
    }),
  ];
  const choose = rule.at ? place(site, row, null, 'let the place be chosen') : null;
  if (row.places.length === 0 && home === null) {
    const beside = besideOf(packets.get(rule.id)!, places)!;
    return none(
      `Both ends are routed by ${beside.name}, so nothing between them passes the gateway, and what is not ours is told nothing.`,
      null,
    );
  }
  if (row.places.length === 0) {
    const { name } = segmentOf(site, home!);
    return none(`Both ends are in ${name}, and no switch or AP that is here carries its clients.`, null);
  }
  if (home !== null && rule.at === 'gateway') {
    const { name } = segmentOf(site, home);
    return none(`Both ends are in ${name}: frames between its clients do not pass the gateway.`, choose);
  }
  if (rule.at === 'switches' && !places.hasSwitch) return none(`${site.name} has no switch.`, choose);
  const airOnly = row.places.length === 1 && row.places[0] === 'aps';
  if (
    airOnly &&
    !Object.values(view.made.ssids)
      .flatMap(listsOfAir)
      .some(({ from, to }) => has(from) || has(to))
  )
    return none('No SSID that is sent here has clients that this rule speaks of.', choose);
  return [];

  function has({ rules }: { readonly rules: readonly { readonly id: string }[] }): boolean {
    return rules.some(({ id }) => id === rule.id);
  }
}

/** Rules that are held against some of those they mean. */
function inPart(
  site: ResolvedSite,
  view: PolicyView,
  row: PolicyRow,
  roster: readonly RosterDevice[],
  links: readonly Link[],
): Finding[] {
  const { places, packets } = view.made;
  const { rule } = row;
  const part = (reason: string): Finding[] => [
    found(site, rule.id, 'rules.part', 'warning', {
      message: `“${ruleName(rule)}” is not held against everybody it means`,
      reason,
      mend: gatewayCould(view, row) ? place(site, row, 'gateway', 'let the gateway do it') : null,
    }),
  ];
  const cabledOf = cabledClasses(view, rule);
  if (row.places.includes('aps') && cabledOf.length > 0)
    return part(
      `Clients of the class ${cabledOf.join(', ')} on cables do not pass an AP. A segment that nobody else joins tells them by their addresses.`,
    );
  const [only] = row.places;
  if (row.places.length !== 1) return [];
  if (only === 'switches') {
    const past = apsPastSwitches(roster, links);
    if (past.length > 0)
      return part(`No switch lies between the gateway and ${past.join(', ')}: their clients pass by.`);
    const home = homeOf(packets.get(rule.id)!, places);
    if (home !== null && places.aired.has(home))
      return part(`Two clients of one AP reach each other without a switch. Leave the place open: APs do it too.`);
  }
  if (only === 'aps' && rule.at === 'aps' && ![rule.from, rule.to].some(areAttached)) {
    const packet = packets.get(rule.id)!;
    const cabled = site.segments.filter(
      ({ id }) => places.cabled.has(id) && places.aired.has(id) && begins(packet, id, view),
    );
    if (cabled.length > 0)
      return part(`Clients of ${cabled.map(({ name }) => name).join(', ')} on cables do not pass an AP.`);
  }
  return [];
}

const begins = ({ source, destination }: PacketRule, id: string, { made }: PolicyView): boolean =>
  [source, destination].some((ranges) =>
    (ranges ?? []).some((range) => meetsAny(range, made.places.clients.get(id) ?? [])),
  );

/** Names of APs that are cabled to a gateway straight. */
function apsPastSwitches(roster: readonly RosterDevice[], links: readonly Link[]): string[] {
  const kinds = new Map(roster.map((device) => [device.id, sheetFor(device).kind]));
  const past = new Set(
    links.flatMap(({ a, b }) =>
      [
        [a.deviceId, b.deviceId],
        [b.deviceId, a.deviceId],
      ].flatMap(([ap, gateway]) => (kinds.get(ap!) === 'ap' && kinds.get(gateway!) === 'gateway' ? [ap!] : [])),
    ),
  );
  return roster.flatMap(({ id, name }) => (past.has(id) ? [name] : []));
}

/** Denies at places that judge each packet by itself, where they stop the answers of what is let through. */
function cutAnswers(site: ResolvedSite, view: PolicyView): Finding[] {
  const rows = new Map(view.made.rows.map((row) => [row.rule.id, row]));
  const findings = new Map<string, Finding>();
  for (const minute of view.open.moments) {
    const passage = view.passage(minute);
    if (!passage.edge) return [];
    for (const [at, list] of passage.lists.entries()) {
      if (at === 0) continue;
      let cut: readonly Cut[] | undefined;
      const some = passage.shape.answer(`cut ${at}`, () => (cut = [...cutBy(passage, list)]).length > 0);
      for (const { rule, packet } of some ? (cut ?? cutBy(passage, list)) : []) {
        const row = rows.get(rule.id);
        if (!row || !own(row) || findings.has(rule.id)) continue;
        const back = rowMend(site, view, row);
        findings.set(
          rule.id,
          found(site, rule.id, 'rules.stateless', 'warning', {
            message: `“${ruleName(row.rule)}” also stops answers`,
            reason: `${packetWords(packet)} is let through, and ${packetWords(answerTo(packet)!)} answers it: ${
              row.places.includes('switches') ? 'switches judge' : 'APs judge'
            } each packet by itself and do not remember.`,
            mend: back,
          }),
        );
      }
    }
  }
  return [...findings.values()];
}

const rowMend = (site: ResolvedSite, view: PolicyView, row: PolicyRow): Mend | null =>
  gatewayCould(view, row) ? place(site, row, 'gateway', 'let the gateway do it, which remembers') : null;

/** Whether the gateway can do what a rule says: its packets pass there, and their addresses say whose they are. */
const gatewayCould = ({ made: { packets, places } }: PolicyView, { rule }: PolicyRow): boolean =>
  homeOf(packets.get(rule.id)!, places) === null && sharedEnds(rule, places).length === 0;

/** Names of a rule's classes that share their segment with others, and whose clients may be cabled. */
function cabledClasses({ made: { places } }: PolicyView, rule: Rule): string[] {
  const classes = sharedEnds(rule, places).flatMap((side) =>
    rule[side].flatMap((end) => (end.kind === 'class' ? [end.name] : [])),
  );
  const cabled = (name: string): boolean =>
    (places.cabled.get(places.classes.get(name) ?? '') ?? []).some(({ accessClass }) => accessClass?.name === name);
  return [...new Set(classes)].filter(cabled);
}

/** Rules at places that go by addresses alone, where those they mean share theirs with others. */
function beyond(site: ResolvedSite, view: PolicyView, row: PolicyRow): Finding[] {
  const { rule } = row;
  if (rule.at !== 'gateway' && rule.at !== 'switches') return [];
  const sides = sharedEnds(rule, view.made.places);
  if (sides.length === 0) return [];
  const ends = writeEnds(sides.flatMap((side) => rule[side]));
  return [
    found(site, rule.id, 'rules.beyond', 'warning', {
      message: `“${ruleName(rule)}” is held against others too`,
      reason: `Others share the addresses of ${ends}, and ${rule.at === 'gateway' ? 'the gateway goes' : 'switches go'} by addresses. APs can tell them apart.`,
      mend: place(site, row, null, 'let the place be chosen'),
    }),
  ];
}

/** A rule that stops the answer to a packet which gets through. */
interface Cut {
  readonly rule: PacketRule;
  readonly packet: Packet;
}

/** The denies of a list that do, each with such a packet. */
function* cutBy(passage: Passage, list: readonly PacketRule[]): Generator<Cut> {
  for (const version of VERSIONS) {
    const space = passage.decider.space(version);
    let left = space.intersect(passage.allowed(version), begunByClients(space));
    for (const rule of list) {
      const answered = matchedIn(space, answeredRule(rule));
      const packet = rule.verdict === 'deny' ? examplePacket(space, space.intersect(left, answered)) : null;
      if (packet) yield { rule, packet };
      left = space.subtract(left, answered);
    }
  }
}

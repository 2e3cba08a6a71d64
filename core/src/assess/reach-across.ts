import {
  addressSpans,
  between,
  carriedInto,
  momentWords,
  VERSIONS,
  WEEK,
  type Attached,
  type PolicyBook,
  type Reach,
  type Whose,
} from '../rules';
import type { JoinedEstate } from '../intent';
import { ALL_UP, eitherWay, judgingSite, ledAcross, type JudgingSite, type LedAcross } from './led-across';
import {
  both,
  cellOf,
  matrixEnds,
  type MatrixEnd,
  type ReachCell,
  type ReachInput,
  type ReachMatrix,
  type Sited,
} from './reach-view';

/** Two joined sites that are asked about, and which tunnels are up. */
export interface AcrossInput {
  readonly here: ReachInput;
  readonly there: ReachInput;
  /** Pairs of ids of joined sites between which a tunnel is up, as gateways told it last; null: all are. */
  readonly up: readonly (readonly [string, string])[] | null;
  /** Minutes that the clocks of the other are ahead of those here. */
  readonly ahead: number;
}

/** One state of both. */
interface Side {
  readonly here: JudgingSite;
  readonly there: JudgingSite;
  readonly led: LedAcross;
}

function sideOf({ here, there, up }: AcrossInput, on: 'draft' | 'live', book?: PolicyBook): Side | null {
  const [a, b] = [here, there].map((input) => {
    if (on === 'draft') return judgingSite(input.site, input.roster, { book });
    const { live, liveSite: site = input.site, roster } = input;
    return live && judgingSite(site, roster, { enforced: live, book, key: `${site.id} live` });
  });
  if (!a || !b) return null;
  const estate: JoinedEstate = a.site.estate;
  return { here: a, there: b, led: ledAcross(estate, a, b, on === 'draft' || !up ? ALL_UP : eitherWay(up)) };
}

/** Segments, SSIDs and classes of a site: what somebody is in. */
const placesOf = ({ site, view }: JudgingSite): Sited[] =>
  matrixEnds(site, view).filter(({ kind }) => kind !== 'gateway' && kind !== 'internet');

const attachedAt = (side: keyof Attached, { attached }: Sited): Attached =>
  attached === undefined ? {} : { [side]: attached };

/** The whole matrix of one state. */
function matrixOf(
  side: Side,
  moment: readonly [number, number],
  rows: readonly Sited[],
  columns: readonly Sited[],
): Reach[][] {
  return rows.map((from) => {
    const passed = new Passed(side, moment, from);
    return columns.map((to) => passed.reach(to));
  });
}

/** What comes from one place into the space of the other site. */
class Passed {
  private readonly sets = new Map<string, number>();
  private readonly passages;

  constructor(
    private readonly side: Side,
    [here, there]: readonly [number, number],
    private readonly from: Sited,
  ) {
    this.passages = { here: side.here.view.passage(here), there: side.there.view.passage(there) };
  }

  reach(to: Sited): Reach {
    const versions = VERSIONS.map((version): Reach => {
      const space = this.passages.there.decider.space(version);
      const about = between(space, this.from, to);
      if (about === space.none) return 'absent';
      const through = (who: Whose['who']): number =>
        space.intersect(
          this.arrives(version, who),
          this.passages.there.allowed(version, { who, ...attachedAt('to', to) }),
        );
      if (space.intersect(about, through('some')) === space.none) return 'none';
      return space.subtract(about, through('every')) === space.none ? 'all' : 'some';
    });
    return both(versions[0]!, versions[1]!);
  }

  /** What the first gateway and the tunnels let come of it. */
  arrives(version: 4 | 6, who: Whose['who']): number {
    const key = `${version} ${who}`;
    let set = this.sets.get(key);
    if (set === undefined) {
      const space = this.passages.here.decider.space(version);
      const { led } = this.side;
      const [source, destination] = [addressSpans(version, led.from)!, addressSpans(version, led.to)!];
      const own = addressSpans(version, this.from.addresses)!;
      const isNone = [source, destination, own].some((spans) => spans.length === 0);
      const region = isNone
        ? space.none
        : space.intersect(space.box([source, destination, null, null]), space.box([own, null, null, null]));
      const allowed = this.passages.here.allowed(version, { who, ...attachedAt('from', this.from) });
      set = carriedInto(space, space.intersect(region, allowed), this.passages.there.decider.space(version));
      this.sets.set(key, set);
    }
    return set;
  }

  /** Exactly what gets through to a place, and what decides it at either gateway. */
  cell(to: Sited, rows: readonly Sited[], columns: readonly Sited[]): ReachCell {
    const { here, there } = this.side;
    const first = cellOf(
      this.passages.here,
      here.view,
      rows,
      (space) => between(space, this.from, to),
      attachedAt('from', this.from),
    );
    const second = cellOf(
      this.passages.there,
      there.view,
      [...rows, ...columns],
      (space) => space.intersect(this.arrives(space.version, 'some'), between(space, this.from, to)),
      attachedAt('to', to),
    );
    const reach = this.reach(to);
    return {
      ...{ reach, allowed: reach === 'none' ? [] : second.allowed, more: reach === 'none' ? 0 : second.more },
      rules: [
        ...first.rules.map((rule) => ({ ...rule, site: here.site.name })),
        ...second.rules.map((rule) => ({ ...rule, site: there.site.name })),
      ],
    };
  }
}

/** The moment by both clocks. @param minute by the one here, see `momentOn`; null: the first at which other rules are in force. */
function momentsOf({ ahead }: AcrossInput, { here }: Side, minute: number | null): readonly [number, number] {
  const at = minute ?? here.view.open.moments[0]!;
  // A minute of any week goes round; one of a certain day goes on to the next.
  return [at, at < WEEK ? (at + ahead + WEEK) % WEEK : at + ahead];
}

/**
 * Who of one site reaches whom of another, on the draft and on what devices run: a row for each place of the one, a column for each of the other.
 * @param minute by the clock here.
 */
export function reachAcross(input: AcrossInput, minute: number | null, book?: PolicyBook): ReachMatrix {
  const draft = sideOf(input, 'draft', book)!;
  const live = sideOf(input, 'live', book);
  const [rows, columns] = [placesOf(draft.here), placesOf(draft.there)];
  const moment = momentsOf(input, draft, minute);
  const plain = ({ key, kind, name }: Sited): MatrixEnd => ({ key, kind, name });
  return {
    places: rows.map(plain),
    columns: columns.map(plain),
    draft: matrixOf(draft, moment, rows, columns),
    live: live && matrixOf(live, moment, liveOnes(rows, live.here), liveOnes(columns, live.there)),
    stops: draft.led.stops,
    moments: draft.here.view.open.moments.map((each) => ({ minute: each, words: momentWords(each) })),
    relations: [],
  };
}

/** Places of the draft where they are live; one that is only in the draft has no address there. */
function liveOnes(places: readonly Sited[], site: JudgingSite): Sited[] {
  const there = new Map(placesOf(site).map((place) => [place.key, place]));
  return places.map((place) => there.get(place.key) ?? { ...place, addresses: [] });
}

/** Everything that is let from a place of one site to one of another. @throws RangeError when there is no such place. */
export function reachCellAcross(
  input: AcrossInput,
  asked: { readonly from: string; readonly to: string; readonly on: 'draft' | 'live'; readonly minute: number | null },
  book?: PolicyBook,
): ReachCell {
  const draft = sideOf(input, 'draft', book)!;
  const side = asked.on === 'live' ? sideOf(input, 'live', book) : draft;
  if (!side) throw new RangeError('no such place');
  const [drafted, others] = [placesOf(draft.here), placesOf(draft.there)];
  const [rows, columns] =
    side === draft ? [drafted, others] : [liveOnes(drafted, side.here), liveOnes(others, side.there)];
  const [from, to] = [rows.find(({ key }) => key === asked.from), columns.find(({ key }) => key === asked.to)];
  if (!from || !to) throw new RangeError('no such place');
  const cell = new Passed(side, momentsOf(input, draft, asked.minute), from).cell(to, rows, columns);
  return side.led.stops.length > 0 && cell.reach === 'none' ? { ...cell, stops: side.led.stops } : cell;
}

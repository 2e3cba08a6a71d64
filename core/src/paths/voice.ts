/** What a codec makes of losses (ITU-T G.113 appendix I): impairment by itself, and how well it bears them. */
export interface Codec {
  readonly impairment: number;
  readonly robustness: number;
}
/** Percent of packets lost, how bursty that is (1: by chance), and milliseconds from mouth to ear. */
export interface VoicePath {
  readonly delay: number;
  readonly loss: number;
  readonly burst?: number;
}

/** What a call begins with that nothing impairs (ITU-T G.107 §7). */
export const BEST_RATING = 93.2;
/** G.711 with concealment of losses, as calls over packets mostly have it (ITU-T G.113 appendix I). */
export const codecOfCalls: Codec = { impairment: 0, robustness: 25.1 };
/** Milliseconds that a codec and its packets take by themselves. */
const CODEC_MS = 25;

/** Milliseconds from mouth to ear over a path: half of the round trip, a buffer of twice the jitter, and the codec. */
export const mouthToEar = ({ latency, jitter }: { readonly latency: number; readonly jitter: number }): number =>
  latency / 2 + 2 * jitter + CODEC_MS;

/** Impairment by codec and losses together (ITU-T G.107 §7.5). */
export function effectiveImpairment({ impairment, robustness }: Codec, { loss, burst = 1 }: VoicePath): number {
  return impairment + ((95 - impairment) * loss) / (loss / burst + robustness);
}

/** Impairment by delay (ITU-T G.107 §7.4, the part of absolute delay). @param delay in milliseconds. */
export function delayImpairment(delay: number): number {
  if (delay <= 100) return 0;
  const x = Math.log2(delay / 100);
  return 25 * ((1 + x ** 6) ** (1 / 6) - 3 * (1 + (x / 3) ** 6) ** (1 / 6) + 2);
}

/** The same by a line with a knee (Cole and Rosenbluth 2001). */
export const plainDelayImpairment = (delay: number): number =>
  0.024 * delay + (delay > 177.3 ? 0.11 * (delay - 177.3) : 0);

/** How good a call is, from 0 to 100: the rating factor R. @param delays what delay takes away. */
export const ratingOf = (codec: Codec, path: VoicePath, delays = delayImpairment): number =>
  BEST_RATING - delays(path.delay) - effectiveImpairment(codec, path);

/** The mean opinion score of a rating, from 1 to 4.5 (ITU-T G.107 annex B). */
export function opinionOf(rating: number): number {
  if (rating <= 0) return 1;
  if (rating >= 100) return 4.5;
  return Math.max(1, 1 + 0.035 * rating + rating * (rating - 60) * (100 - rating) * 7e-6);
}

/** The lowest rating of calls that are at least as good as a mean opinion score, from 1 to 4.5. */
export function ratingForOpinion(opinion: number): number {
  let [low, high] = [0, 100];
  for (let i = 0; i < 50; i++) {
    const middle = (low + high) / 2;
    if (opinionOf(middle) >= opinion) high = middle;
    else low = middle;
  }
  return high;
}

/** Share of calls that find every channel taken (Erlang B). @param load in erlangs. @throws RangeError for less than none. */
export function blockedShare(load: number, channels: number): number {
  if (!(load >= 0) || !(channels >= 0)) throw new RangeError('neither load nor channels are less than none');
  let blocked = 1;
  for (let i = 1; i <= channels; i++) blocked = (load * blocked) / (i + load * blocked);
  return blocked;
}

/** Share of calls that have to wait (Erlang C); all of them where there is more than can be served. */
export function waitingShare(load: number, channels: number): number {
  if (load >= channels) return 1;
  const blocked = blockedShare(load, channels);
  return blocked / (1 - (load / channels) * (1 - blocked));
}

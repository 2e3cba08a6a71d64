/// <reference lib="webworker" />
import { answerTo, type LatticeQuestion, type SiteFacts } from './lattice-question';

let facts: SiteFacts | null = null;

/** Facts come once for all questions about them; answers carry the number of their question. */
addEventListener(
  'message',
  ({ data }: MessageEvent<{ number: number; facts?: SiteFacts; question: LatticeQuestion }>) => {
    facts = data.facts ?? facts;
    postMessage({ number: data.number, answer: answerTo(facts!, data.question) });
  },
);

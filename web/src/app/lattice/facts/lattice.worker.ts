/// <reference lib="webworker" />
import { answerTo, type LatticeAsked, type SiteFacts } from './lattice-question';

let facts: SiteFacts | null = null;

/** Facts come once for all questions about them; answers carry the number of their question. */
addEventListener('message', ({ data }: MessageEvent<{ number: number; question: LatticeAsked }>) => {
  const { number, question } = data;
  facts = question.facts ?? facts;
  postMessage({ number, answer: answerTo(facts!, question.question) });
});

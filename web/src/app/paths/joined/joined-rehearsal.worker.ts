/// <reference lib="webworker" />
import { answerTo, type JoinedQuestion } from './joined-rehearsal-question';

addEventListener('message', ({ data }: MessageEvent<{ number: number; question: JoinedQuestion }>) => {
  postMessage({ number: data.number, answer: answerTo(data.question) });
});

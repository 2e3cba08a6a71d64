/// <reference lib="webworker" />
import { answerTo, type RehearsalQuestion } from './rehearsal-question';

addEventListener('message', ({ data }: MessageEvent<{ number: number; question: RehearsalQuestion }>) => {
  postMessage({ number: data.number, answer: answerTo(data.question) });
});

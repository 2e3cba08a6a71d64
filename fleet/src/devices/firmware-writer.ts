import { createHash } from 'node:crypto';
import type { ControllerFrame } from '@iron-lattice/core/line';

type Order = Extract<ControllerFrame, { type: 'firmware' }>;

/** Steps of writing an image, in percent; and how long each takes. */
const WRITING = { steps: [70, 80, 90, 100], ms: 60 } as const;

/**
 * Fetches an image from the controller, checks it and writes it.
 * @param controllerUrl `ws://host:port`.
 * @param progress is called with percents.
 * @throws Error with a reason for people when it cannot be had or is not what was announced.
 */
export async function fetchFirmware(
  order: Order,
  controllerUrl: string,
  progress: (percent: number) => void,
): Promise<void> {
  const response = await fetch(`${controllerUrl.replace(/^ws/, 'http')}${order.path}`).catch(() => null);
  if (!response?.ok) throw new Error(`The image could not be fetched${response ? ` (${response.status})` : ''}`);
  const hash = createHash('sha256');
  let length = 0;
  let told = 0;
  for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
    hash.update(chunk);
    length += chunk.length;
    const percent = Math.min(60, Math.floor((length / order.size) * 60));
    if (percent < told + 20) continue;
    told = percent;
    progress(percent);
  }
  if (length !== order.size) throw new Error(`The image has ${length} octets, not ${order.size}`);
  if (hash.digest('hex') !== order.sha256) throw new Error('The image does not match its checksum');
  for (const percent of WRITING.steps) {
    await new Promise((resolve) => setTimeout(resolve, WRITING.ms));
    progress(percent);
  }
}

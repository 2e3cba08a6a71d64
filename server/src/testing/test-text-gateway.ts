import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';

/** A gateway for text messages in the hands of a test: it takes what comes with the key `gulls`, and answers as it is told. */
export class TestTextGateway {
  readonly came: { readonly type: string; readonly body: string }[] = [];
  /** What it answers instead. */
  answer: { readonly status: number; readonly text?: string; readonly to?: string } | null = null;
  private readonly server = createServer((request, response) => {
    let body = '';
    request.on('data', (chunk: Buffer) => (body += chunk.toString()));
    request.on('end', () => {
      const key = request.headers['x-key'];
      const { status, text = 'queued', to } = this.answer ?? { status: key === 'gulls' ? 202 : 401 };
      if (status < 300) this.came.push({ type: request.headers['content-type'] ?? '', body });
      response.writeHead(status, to === undefined ? {} : { location: to }).end(text);
    });
  });

  /** @returns where it takes messages. */
  async listen(): Promise<string> {
    await new Promise<void>((resolve) => this.server.listen(0, '127.0.0.1', resolve));
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}/send`;
  }

  close = (): void => void this.server.close();
}

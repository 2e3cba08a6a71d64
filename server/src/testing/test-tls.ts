import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { request, type RequestOptions } from 'node:https';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { issue, makeAuthority } from '../entry/certificates/authority';

/** A certificate for `localhost` by an authority that nobody else believes, in files. */
export class TestTls {
  private constructor(
    private readonly folder: string,
    private readonly authority: string,
  ) {}

  static async make(): Promise<TestTls> {
    const authority = await makeAuthority('Quay authority');
    const folder = mkdtempSync(join(tmpdir(), 'tls-'));
    const { cert, key } = await issue(authority, { kind: 'server', name: 'localhost' });
    writeFileSync(join(folder, 'cert.pem'), cert);
    writeFileSync(join(folder, 'key.pem'), key);
    return new TestTls(folder, authority.cert);
  }

  get files(): { readonly cert: string; readonly key: string } {
    return { cert: join(this.folder, 'cert.pem'), key: join(this.folder, 'key.pem') };
  }

  /** Asks as whoever believes the authority; follows nothing. @param form that is sent. */
  ask(url: string, options: RequestOptions = {}, form: Readonly<Record<string, string>> | null = null) {
    return new Promise<{ status: number; headers: Record<string, unknown>; text: string }>((resolve, reject) => {
      const asked = request(url, { ca: this.authority, servername: 'localhost', ...options }, (response) => {
        const chunks: Buffer[] = [];
        response.on('data', (chunk: Buffer) => chunks.push(chunk));
        response.on('end', () =>
          resolve({
            ...{ status: response.statusCode!, headers: response.headers, text: Buffer.concat(chunks).toString() },
          }),
        );
      });
      asked.on('error', reject);
      if (form) asked.setHeader('content-type', 'application/x-www-form-urlencoded');
      asked.end(form ? new URLSearchParams(form).toString() : undefined);
    });
  }

  end(): void {
    rmSync(this.folder, { recursive: true });
  }
}

import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Context, Next } from 'koa';
import send from 'koa-send';

const HASHED = /-[A-Z0-9]{8}\.(js|css|woff2?|svg|png)$/;

/** Serves the built interface; a path without a file is a place inside it and gets its page. */
export const serveWeb =
  (root: string) =>
  async (context: Context, next: Next): Promise<void> => {
    if (context.method !== 'GET' || context.path.startsWith('/api') || context.body !== undefined)
      return void (await next());
    const isFile = /\.[a-z0-9]+$/i.test(context.path);
    const path = isFile ? context.path : '/index.html';
    if (!existsSync(join(root, path))) {
      context.status = 404;
      context.body = isFile ? 'No such file.' : 'The interface is not built: npm start builds it.';
      return;
    }
    await send(context, path, {
      root,
      setHeaders: (response) => {
        response.setHeader('cache-control', HASHED.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache');
      },
    });
  };

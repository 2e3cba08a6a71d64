import { readdirSync } from 'node:fs';
import type { Context, Next } from 'koa';
import { send } from '@koa/send';

const HASHED = /-[A-Z0-9]{8}\.(js|css|woff2?|svg|png)$/;
const PAGE = '/index.html';

/**
 * Serves the built interface; a path without a file is a place inside it and gets its page. Only the files that were
 * built are known: of no others is it told whether they exist.
 */
export function serveWeb(root: string): (context: Context, next: Next) => Promise<void> {
  let files = filesOf(root);
  return async (context, next) => {
    if (context.method !== 'GET' || context.path.startsWith('/api') || context.body !== undefined)
      return void (await next());
    const isFile = /\.[a-z0-9]+$/i.test(context.path);
    const path = isFile ? context.path : PAGE;
    if (!files.has(PAGE)) files = filesOf(root); // built since
    if (!files.has(path)) {
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
}

/** Paths of the files in a folder, as a browser asks for them. */
function filesOf(root: string): ReadonlySet<string> {
  try {
    const entries = readdirSync(root, { recursive: true, withFileTypes: true });
    const files = entries.filter((entry) => entry.isFile());
    return new Set(
      files.map(({ parentPath, name }) => `${parentPath.slice(root.length)}/${name}`.replaceAll('\\', '/')),
    );
  } catch {
    return new Set();
  }
}

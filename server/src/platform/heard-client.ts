import pg from 'pg';

/**
 * A connection whose end is never unheard: a database may say goodbye in the very moment it has answered, before whoever
 * connected listens for errors, and an error without a listener ends a Node.js process. Whoever asks such a connection
 * is told that it is lost.
 */
export class HeardClient extends pg.Client {
  constructor(config?: string | pg.ClientConfig) {
    super(config);
    this.on('error', () => undefined);
  }
}

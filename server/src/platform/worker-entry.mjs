// Entry of worker threads: registers the TypeScript loader, which threads do not inherit.
import { register } from 'tsx/esm/api';
register();
const { default: handle } = await import('./heavy-worker.ts');
export default handle;

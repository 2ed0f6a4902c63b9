import { startServer } from './server.ts';

export default () => startServer(5187, true);

import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { type AddressInfo, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const home = join(dirname(fileURLToPath(import.meta.url)), '..', '..');

/** A port that nobody uses: two runs of the tests beside one another must not meet at one. */
export const freePort = () =>
  new Promise<number>((resolve, reject) => {
    const asked = createServer();
    asked.once('error', reject);
    asked.listen(0, '127.0.0.1', () => {
      const { port } = asked.address() as AddressInfo;
      asked.close(() => {
        resolve(port);
      });
    });
  });

/** Starts the application as it was built, with the demo fleet in a folder of its own; gives what ends it. */
export async function startServer(port: number, freeze = false, hurry = 1): Promise<() => Promise<void>> {
  const data = mkdtempSync(join(tmpdir(), 'fresh-boot-e2e-'));
  const server = await startOn(data, port, freeze, hurry);
  return async () => {
    await stop(server, 'SIGTERM');
    rmSync(data, { recursive: true, force: true });
  };
}

/** Ends a server, or pulls its plug. */
export async function stop(server: ChildProcess, how: 'SIGTERM' | 'SIGKILL') {
  if (server.exitCode !== null || server.signalCode !== null) return;
  const gone = new Promise((done) => server.once('exit', done));
  server.kill(how);
  await gone;
}

/** Starts the application on a data folder, a fresh one or one that was there before, and waits until it answers. */
export async function startOn(
  data: string,
  port: number,
  freeze = false,
  hurry = 1,
): Promise<ChildProcess> {
  // Seeded once for all tests, and cloned.
  if (!existsSync(join(data, 'fresh-boot.db')))
    execFileSync(join(home, 'scripts/demo-template.sh'), [data], { stdio: ['ignore', 'ignore', 'inherit'] });
  const server: ChildProcess = spawn(
    'dotnet',
    [
      join(home, 'src/FreshBoot.Server/bin/Debug/net10.0/FreshBoot.Server.dll'),
      '--demo',
      'true',
      '--cloned',
      'true',
      '--port',
      String(port),
    ],
    {
      env: { ...process.env, FRESHBOOT_HOME: home, FRESHBOOT_DATA: data, FRESHBOOT_FREEZE: String(freeze), FRESHBOOT_HURRY: String(hurry) },
      stdio: ['ignore', 'ignore', 'inherit'],
    },
  );
  // A busy machine takes its time: only a server that has ended does not answer any more.
  while (server.exitCode === null && server.signalCode === null) {
    const there = await fetch(`http://localhost:${port}/api/health`).then(
      (r) => r.ok,
      () => false,
    );
    if (there) return server;
    await new Promise((done) => setTimeout(done, 200));
  }
  throw new Error(`the server ended with ${server.exitCode ?? server.signalCode}`);
}

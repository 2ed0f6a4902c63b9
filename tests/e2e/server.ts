import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const home = join(dirname(fileURLToPath(import.meta.url)), '..', '..');

/** Starts the application as it was built, with the demo fleet in a folder of its own. */
export async function startServer(port: number, freeze = false): Promise<() => Promise<void>> {
  const data = mkdtempSync(join(tmpdir(), 'fresh-boot-e2e-'));
  const server: ChildProcess = spawn(
    'dotnet',
    [
      join(home, 'src/FreshBoot.Server/bin/Debug/net10.0/FreshBoot.Server.dll'),
      '--demo',
      'true',
      '--port',
      String(port),
    ],
    {
      env: { ...process.env, FRESHBOOT_HOME: home, FRESHBOOT_DATA: data, FRESHBOOT_FREEZE: String(freeze) },
      stdio: ['ignore', 'ignore', 'inherit'],
    },
  );
  const end = async () => {
    const gone = new Promise((done) => server.once('exit', done));
    server.kill('SIGTERM');
    await gone;
    rmSync(data, { recursive: true, force: true });
  };
  for (let tries = 0; tries < 150; tries++) {
    if (server.exitCode !== null) throw new Error(`the server ended with ${server.exitCode}`);
    const there = await fetch(`http://localhost:${port}/api/health`).then(
      (r) => r.ok,
      () => false,
    );
    if (there) return end;
    await new Promise((done) => setTimeout(done, 200));
  }
  await end();
  throw new Error('the server did not answer');
}

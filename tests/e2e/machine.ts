import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, openSync, closeSync, ftruncateSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { home } from './server.ts';

/** The bundle that the probe brings home from a made-up Stile 14 in the emulator, started by UEFI. */
export function emulatedBundle(): string {
  const folder = mkdtempSync(join(tmpdir(), 'fresh-boot-emulated-'));
  const drive = join(folder, 'drive.img');
  const file = openSync(drive, 'w');
  ftruncateSync(file, 64e9);
  closeSync(file);
  const bundle = join(folder, 'stile-14.tar.gz');
  mkdirSync(join(home, '.cache'), { recursive: true });
  execFileSync('sh', [
    join(home, 'probe/emulated-machine.sh'),
    ...['--firmware', 'uefi', '--out', bundle, '-m', '8192', '-smp', '2,cores=2'],
    ...['-cpu', 'max,vendor=CorvaneChips,model-id=Corvane C8-350'],
    ...['-smbios', 'type=1,manufacturer=Brackwater,product=Stile 14,serial=BW-14C8-31007'],
    ...['-smbios', 'type=2,manufacturer=Brackwater,product=ST14-8,serial=BB-31007'],
    ...['-drive', `file=${drive},if=none,id=d,format=raw`, '-device', 'nvme,drive=d,serial=N1'],
  ]);
  rmSync(drive);
  if (!existsSync(bundle)) throw new Error('no bundle');
  return bundle;
}

import { execFileSync } from 'node:child_process';
import {
  closeSync,
  existsSync,
  ftruncateSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
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

/** A bundle as the probe writes one, of a machine with this serial number and as much memory, in kB. */
export function bundleOf(serial: string, memoryKb = 3_987_000): Buffer {
  const folder = mkdtempSync(join(tmpdir(), 'fresh-boot-bundle-'));
  const files = {
    'meminfo.txt': `MemTotal:        ${memoryKb} kB\n`,
    'efi.txt': 'folder yes\nword 64\n',
    'dmi.txt': `sys_vendor=Brackwater\nproduct_name=Stile 13\nproduct_serial=${serial}\nboard_name=ST13\n`,
  };
  const lines = Object.entries(files).map(([name, text]) => {
    writeFileSync(join(folder, name), text);
    return `have ${name} ${Buffer.byteLength(text)}`;
  });
  writeFileSync(
    join(folder, 'manifest.txt'),
    ['fresh-boot-probe 1', 'taken 2026-12-03T13:00:00Z', 'root yes', ...lines, ''].join('\n'),
  );
  execFileSync('tar', [
    '-C',
    folder,
    '-czf',
    join(folder, 'b.tar.gz'),
    'manifest.txt',
    ...Object.keys(files),
  ]);
  return readFileSync(join(folder, 'b.tar.gz'));
}

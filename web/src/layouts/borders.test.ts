import { expect, test } from 'vitest';
import type { Schema } from '../api/client';
import { follower, mebi, moveEnd, type Partition, range, usableEnd, without } from './borders';

const MiB = mebi(512);
const part = (number: number, use: Partition['use'], start: number, size: number): Partition => ({
  number,
  use,
  type: '',
  startLba: start * MiB,
  sizeLba: size * MiB,
  why: '',
  fileSystem: 'none',
  encrypted: false,
});
const gpt = [part(1, 'efi', 1, 512), part(2, 'system', 513, 20_000), part(3, 'home', 20_513, 30_000)];
const usable = 60_000 * MiB;

test('a border moves with what follows it, and takes from that', () => {
  const moved = moveEnd(gpt, 2, (20_513 - 1024) * MiB, 512, usable);
  expect(moved[1]?.sizeLba).toBe((20_000 - 1024) * MiB);
  expect(moved[2]?.startLba).toBe((20_513 - 1024) * MiB);
  expect(moved[2]?.sizeLba).toBe((30_000 + 1024) * MiB);
});

test('the last one grows into what is free, and no further', () => {
  expect(moveEnd(gpt, 3, 1e12, 512, usable)[2]?.sizeLba).toBe((60_000 - 20_513) * MiB);
});

test('a system that stays is not moved, and nothing is drawn over it', () => {
  const kept = [part(1, 'kept', 1, 10_000), part(2, 'system', 10_001, 10_000), part(3, 'kept', 20_001, 5000)];
  expect(moveEnd(kept, 1, 5000 * MiB, 512, usable)).toEqual(kept);
  expect(moveEnd(kept, 2, 22_000 * MiB, 512, usable)[2]).toEqual(kept[2]);
  expect(range(kept, kept[1] as Partition, 512, usable).most).toBe(20_001 * MiB);
});

test('a container follows its logical partitions, with the mebibyte of each record between them', () => {
  const mbr = [
    part(1, 'boot', 1, 500),
    part(2, 'extended', 501, 9001),
    part(5, 'system', 502, 5000),
    part(6, 'home', 5503, 3999),
  ];
  expect(follower(mbr, mbr[2] as Partition, 512)?.number).toBe(6);
  const moved = moveEnd(mbr, 5, 6000 * MiB, 512, usable);
  expect(moved[3]?.startLba).toBe(6001 * MiB);
  const shorter = moveEnd(mbr, 6, 8000 * MiB, 512, usable);
  expect(shorter[1]).toMatchObject({ startLba: 501 * MiB, sizeLba: (8000 - 501) * MiB });
  expect(without(without(mbr, 6), 5).map((p) => p.number)).toEqual([1]);
});

test('whatever is done, nothing overlaps, everything keeps a mebibyte and begins at a whole one', () => {
  // A small generator of its own, so that a failure can be made again.
  let seed = 11;
  const next = (most: number) => {
    seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
    return seed % most;
  };
  let all: Partition[] = gpt;
  for (let i = 0; i < 2000; i++) {
    all = moveEnd(all, 1 + next(3), next(70_000) * MiB + next(MiB), 512, usable);
    let end = MiB;
    for (const p of all) {
      expect(p.startLba).toBeGreaterThanOrEqual(end);
      expect(p.startLba % MiB).toBe(0);
      expect(p.sizeLba).toBeGreaterThanOrEqual(MiB);
      end = p.startLba + p.sizeLba;
    }
    expect(end).toBeLessThanOrEqual(usable);
  }
});

test('a GPT leaves the end of the drive to its second table, an MBR ends at 32 bits', () => {
  const layout = { scheme: 'gpt', sectorBytes: 512, sectors: 100 * MiB } as Schema['LayoutSheet'];
  expect(usableEnd(layout)).toBe(99 * MiB);
  expect(usableEnd({ ...layout, scheme: 'mbr' })).toBe(100 * MiB);
  expect(usableEnd({ ...layout, scheme: 'mbr', sectors: 2 ** 33 })).toBe(2 ** 32);
});

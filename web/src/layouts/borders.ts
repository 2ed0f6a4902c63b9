import type { Schema } from '../api/client';

export type Partition = Schema['LayoutPartition'];

/** Sectors of a mebibyte: everything begins at whole ones. */
export const mebi = (sectorBytes: number) => 2 ** 20 / sectorBytes;

/** What ends where it ends: another system, and the container of logical partitions, which follows what it holds. */
export const fixed = (p: Partition) => p.use === 'kept' || p.use === 'extended';

/** A partition of the same level that touches the end of this one, or leaves no more than the mebibyte of a record between. */
export function follower(
  all: readonly Partition[],
  p: Partition,
  sectorBytes: number,
): Partition | undefined {
  const end = p.startLba + p.sizeLba;
  return all.find((q) => q.use !== 'extended' && q.startLba >= end && q.startLba - end <= mebi(sectorBytes));
}

/** How far the end of a partition may move, in sectors: it keeps a mebibyte, and so does what follows it. */
export function range(
  all: readonly Partition[],
  p: Partition,
  sectorBytes: number,
  usable: number,
): { least: number; most: number } {
  const step = mebi(sectorBytes);
  const next = follower(all, p, sectorBytes);
  const end = p.startLba + p.sizeLba;
  const beyond = all
    .filter((q) => q.use !== 'extended' && q.startLba >= end)
    .sort((a, b) => a.startLba - b.startLba);
  const most =
    next && !fixed(next)
      ? next.startLba + next.sizeLba - step - (next.startLba - end)
      : next
        ? end
        : beyond[0]
          ? beyond[0].startLba
          : usable;
  return { least: p.startLba + step, most: Math.max(p.startLba + step, Math.floor(most / step) * step) };
}

/** Moves the end of a partition, and with it the beginning of what follows; a container follows what it holds. */
export function moveEnd(
  all: readonly Partition[],
  number: number,
  to: number,
  sectorBytes: number,
  usable: number,
): Partition[] {
  const p = all.find((q) => q.number === number);
  if (!p || fixed(p)) return [...all];
  const step = mebi(sectorBytes);
  const { least, most } = range(all, p, sectorBytes, usable);
  const end = Math.min(most, Math.max(least, Math.round(to / step) * step));
  const next = follower(all, p, sectorBytes);
  const by = end - (p.startLba + p.sizeLba);
  const moved = all.map((q) =>
    q.number === number
      ? { ...q, sizeLba: end - q.startLba, why: 'As it was drawn.' }
      : next && !fixed(next) && q.number === next.number
        ? { ...q, startLba: q.startLba + by, sizeLba: q.sizeLba - by, why: 'As it was drawn.' }
        : q,
  );
  return moved.map((q) => (q.use === 'extended' ? around(moved, q) : q));
}

/** Takes a partition out; its place is free then. */
export const without = (all: readonly Partition[], number: number): Partition[] => {
  const left = all.filter((q) => q.number !== number);
  return left
    .filter((q) => q.use !== 'extended' || left.some((l) => l.number > 4))
    .map((q) => (q.use === 'extended' ? around(left, q) : q));
};

function around(all: readonly Partition[], extended: Partition): Partition {
  const ends = all.filter((q) => q.number > 4).map((q) => q.startLba + q.sizeLba);
  return ends.length === 0 ? extended : { ...extended, sizeLba: Math.max(...ends) - extended.startLba };
}

/** The first sector that no partition may use: a GPT keeps its second table at the end (UEFI 2.10, 5.3.1). */
export const usableEnd = (layout: Schema['LayoutSheet']) => {
  const step = mebi(layout.sectorBytes);
  const table = layout.scheme === 'gpt' ? 1 + Math.ceil((128 * 128) / layout.sectorBytes) : 0;
  const least = layout.scheme === 'mbr' ? Math.min(layout.sectors, 2 ** 32) : layout.sectors;
  return Math.floor((least - table) / step) * step;
};

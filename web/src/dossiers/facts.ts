import type { Schema } from '../api/client';

type Definition = Schema['FactDefinition'];

/** `storage.1.bus` is an instance of the key `storage.0.bus`. */
const canonical = (key: string) => key.replace(/\.\d\./, '.0.');

export const definitionOf = (key: string, keys: readonly Definition[]) =>
  keys.find((d) => d.key === canonical(key));

/** The label of a key, numbered for the second and later ones. */
export function labelOf(key: string, keys: readonly Definition[]): string {
  const label = definitionOf(key, keys)?.label ?? key;
  const index = /\.(\d)\./.exec(key)?.[1];
  return index && index !== '0' ? `${label} ${Number(index) + 1}` : label;
}

/** A value with its unit, as people read it: memory binary, drives decimal as their makers print them. */
export function factText(
  fact: { key: string; value: Schema['FactValue'] },
  keys: readonly Definition[],
): string {
  const definition = definitionOf(fact.key, keys);
  const { value } = fact;
  if (Array.isArray(value)) return `${value.length} flags`;
  if (typeof value === 'string') return definition?.choices.find((c) => c.value === value)?.meaning ?? value;
  switch (definition?.unit) {
    case 'MiB':
      return memoryText(value);
    case 'B':
      return driveText(value);
    default:
      return definition?.key === 'cpu.wordBits'
        ? `${value}-bit`
        : definition?.unit
          ? `${value} ${definition.unit}`
          : String(value);
  }
}

const short = (n: number) => String(n < 10 ? Math.round(n * 10) / 10 : Math.round(n));

const memoryText = (mib: number) => (mib >= 1024 ? `${short(mib / 1024)} GiB` : `${mib} MiB`);

const driveText = (bytes: number) =>
  bytes >= 999.5e9
    ? `${short(bytes / 1e12)} TB`
    : bytes >= 1e9
      ? `${short(bytes / 1e9)} GB`
      : `${short(bytes / 1e6)} MB`;

/** "Wickerwork 26", "Tessaly 6, release 2". */
/** Maker and model as one says them; a model that begins with its maker's name is not said twice. */
export const machineName = (maker: string | null, model: string | null) =>
  maker && model?.startsWith(maker) ? model : [maker, model].filter(Boolean).join(' ');

export const systemName = (system: Schema['SystemEntry'] | undefined) => system?.fullName ?? '';

/** Money in hundredth parts of a mark. */
export const moneyText = (hundredths: number) => `M ${(hundredths / 100).toFixed(2)}`;

/** A fact is in conflict while sources disagree and nobody has chosen. */
export const inConflict = (fact: Schema['Fact']) => fact.disagreeing.length > 0 && fact.origin !== 'chosen';

/** The page that a machine wants next: the step of its run, or the rung that holds it. */
export const whereItHangs = (m: Schema['MachineSummary']) =>
  m.run && !m.run.finishedAt ? `/machines/${m.tag}/run` : `/machines/${m.tag}/systems?rung=${m.next.rung}`;

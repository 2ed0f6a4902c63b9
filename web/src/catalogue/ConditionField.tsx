import { useState } from 'react';
import type { Schema } from '../api/client';
import type { Json, JsonObject } from './schema';

type Fact = Schema['FactDefinition'];
type Kind = 'atLeast' | 'oneOf' | 'has';

interface Atom {
  fact: string;
  kind: Kind;
  value: Json;
}

interface Simple {
  join: 'all' | 'any';
  atoms: Atom[];
}

const kinds: Record<Kind, string> = { atLeast: 'is at least', oneOf: 'is one of', has: 'has all of' };

/** A condition that is a list of facts, all or any of which must hold; null for one that says more, which is written as JSON. */
export function simple(value: Json | undefined, known: readonly Fact[]): Simple | null {
  const parts = list(value);
  if (!parts) return null;
  const atoms = parts.of.map(atom);
  return atoms.every((a) => a !== null && known.some((k) => k.key === a.fact))
    ? { join: parts.join, atoms: atoms as Atom[] }
    : null;
}

function list(value: Json | undefined): { join: 'all' | 'any'; of: Json[] } | null {
  if (value === null || typeof value !== 'object' || Array.isArray(value)) return null;
  const { all, any } = value;
  if (Array.isArray(all) && Object.keys(value).length === 1) return { join: 'all', of: all };
  if (Array.isArray(any) && Object.keys(value).length === 1) return { join: 'any', of: any };
  return { join: 'all', of: [value] };
}

function atom(value: Json): Atom | null {
  if (value === null || typeof value !== 'object' || Array.isArray(value)) return null;
  const { fact, ...rest } = value;
  const [kind, ...more] = Object.keys(rest);
  if (typeof fact !== 'string' || more.length > 0) return null;
  return kind === 'atLeast' || kind === 'oneOf' || kind === 'has'
    ? { fact, kind, value: rest[kind] ?? null }
    : null;
}

const written = ({ join, atoms }: Simple): JsonObject => {
  const parts = atoms.map((a) => ({ fact: a.fact, [a.kind]: a.value }));
  return parts.length === 1 && parts[0] ? parts[0] : { [join]: parts };
};

/** What a fact is asked to be before anybody says it. */
function fresh(fact: Fact): Atom {
  if (fact.form === 'whole') return { fact: fact.key, kind: 'atLeast', value: fact.min ?? 0 };
  if (fact.form === 'words') return { fact: fact.key, kind: 'has', value: [] };
  return { fact: fact.key, kind: 'oneOf', value: fact.choices[0] ? [fact.choices[0].value] : [] };
}

const byUnit: Record<string, [number, string][]> = {
  MiB: [
    [1024, 'GiB'],
    [1, 'MiB'],
  ],
  B: [
    [1e9, 'GB'],
    [1e6, 'MB'],
  ],
};

/** A condition built by choosing: a fact by its name, how it is asked, and the values that will do. */
export function ConditionField({
  at,
  label,
  value,
  keys,
  set,
}: {
  at: string;
  label: React.ReactNode;
  value: Simple;
  keys: readonly Fact[];
  set: (value: JsonObject) => void;
}) {
  const askable = keys.filter((k) => !k.key.startsWith('plan.'));
  const change = (i: number, next: Atom | null) => {
    const atoms = value.atoms.flatMap((a, j) => (i !== j ? [a] : next ? [next] : []));
    if (atoms.length > 0) set(written({ ...value, atoms }));
  };
  const first = askable[0];
  return (
    <fieldset className="my-1 py-0.5" data-at={at}>
      <legend className="w-full">{label}</legend>
      {value.atoms.length > 1 && (
        <select
          aria-label={`Whether all or any of ${at} must hold`}
          className="min-h-8 border-b-[1.5px] border-quiet bg-ground text-sm"
          value={value.join}
          onChange={(event) => {
            set(written({ ...value, join: event.target.value as 'all' | 'any' }));
          }}
        >
          <option value="all">all of these</option>
          <option value="any">any of these</option>
        </select>
      )}
      {value.atoms.map((a, i) => {
        const fact = keys.find((k) => k.key === a.fact);
        if (!fact) return null;
        return (
          <div key={i} className="flex flex-wrap items-center gap-2 border-l-2 border-rule py-1 pl-2">
            <select
              aria-label={`Fact ${i + 1} of ${at}`}
              className="min-h-8 max-w-52 border-b-[1.5px] border-quiet bg-ground"
              value={a.fact}
              onChange={(event) => {
                const other = keys.find((k) => k.key === event.target.value);
                if (other) change(i, fresh(other));
              }}
            >
              {askable.map((k) => (
                <option key={k.key} value={k.key}>
                  {k.label}
                </option>
              ))}
            </select>
            {fact.form === 'choice' && fact.ordered ? (
              <select
                aria-label={`How ${fact.label} is asked`}
                className="min-h-8 border-b-[1.5px] border-quiet bg-ground"
                value={a.kind}
                onChange={(event) => {
                  const one = fact.choices[0]?.value ?? '';
                  change(
                    i,
                    event.target.value === 'atLeast'
                      ? { ...a, kind: 'atLeast', value: one }
                      : { ...a, kind: 'oneOf', value: [one] },
                  );
                }}
              >
                <option value="atLeast">{kinds.atLeast}</option>
                <option value="oneOf">{kinds.oneOf}</option>
              </select>
            ) : (
              <span className="text-quiet">{kinds[a.kind]}</span>
            )}
            <Value
              fact={fact}
              atom={a}
              set={(next) => {
                change(i, { ...a, value: next });
              }}
            />
            {value.atoms.length > 1 && (
              <button
                type="button"
                className="min-h-8 text-xs text-quiet underline"
                aria-label={`Take ${fact.label} out of ${at}`}
                onClick={() => {
                  change(i, null);
                }}
              >
                take out
              </button>
            )}
          </div>
        );
      })}
      {first && (
        <button
          type="button"
          className="min-h-8 text-sm underline"
          aria-label={`One more fact of ${at}`}
          onClick={() => {
            set(written({ ...value, atoms: [...value.atoms, fresh(first)] }));
          }}
        >
          One more
        </button>
      )}
    </fieldset>
  );
}

function Value({ fact, atom: a, set }: { fact: Fact; atom: Atom; set: (value: Json) => void }) {
  const name = `${fact.label} ${kinds[a.kind]}`;
  if (fact.form === 'whole') return <Amount fact={fact} name={name} value={Number(a.value)} set={set} />;
  if (fact.form === 'choice' && a.kind === 'atLeast')
    return (
      <select
        aria-label={name}
        className="min-h-8 border-b-[1.5px] border-quiet bg-ground"
        value={typeof a.value === 'string' ? a.value : ''}
        onChange={(event) => {
          set(event.target.value);
        }}
      >
        {fact.choices.map((c) => (
          <option key={c.value} value={c.value}>
            {c.meaning}
          </option>
        ))}
      </select>
    );
  const chosen = Array.isArray(a.value) ? a.value.map(String) : [];
  if (fact.form === 'choice')
    return (
      <span className="flex flex-wrap gap-x-3">
        {fact.choices.map((c) => (
          <label key={c.value} className="flex min-h-8 items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              className="size-4 accent-ink"
              checked={chosen.includes(c.value)}
              onChange={(event) => {
                const next = fact.choices
                  .map((o) => o.value)
                  .filter((v) => (v === c.value ? event.target.checked : chosen.includes(v)));
                if (next.length > 0) set(next);
              }}
            />
            {c.meaning}
          </label>
        ))}
      </span>
    );
  return (
    <input
      aria-label={name}
      className="min-h-8 min-w-40 flex-1 border-b-[1.5px] border-quiet bg-transparent font-value text-[13px]"
      placeholder={a.kind === 'has' ? 'such as: sse2 cx16' : 'such as: Stile 14, Stile 15'}
      defaultValue={chosen.join(a.kind === 'has' ? ' ' : ', ')}
      onBlur={(event) => {
        const next = event.target.value
          .split(a.kind === 'has' ? /[\s,]+/ : /\s*,\s*/)
          .filter((word) => word !== '');
        if (next.length > 0) set(next);
      }}
    />
  );
}

/** A number in the unit that people say: 512 MiB, 20 GB. */
function Amount({
  fact,
  name,
  value,
  set,
}: {
  fact: Fact;
  name: string;
  value: number;
  set: (value: number) => void;
}) {
  const units: [number, string][] = byUnit[fact.unit ?? ''] ?? [[1, fact.unit ?? '']];
  const whole = units.find(([size]) => value >= size && value % size === 0) ?? units.at(-1) ?? [1, ''];
  const [size, setSize] = useState(whole[0]);
  return (
    <span className="flex items-center gap-1">
      <input
        aria-label={name}
        type="number"
        min={0}
        step="any"
        className="min-h-8 w-24 border-b-[1.5px] border-quiet bg-transparent text-right font-value"
        value={value / size}
        onChange={(event) => {
          if (event.target.value !== '') set(Math.round(Number(event.target.value) * size));
        }}
      />
      {units.length > 1 ? (
        <select
          aria-label={`Unit of ${name}`}
          className="min-h-8 border-b-[1.5px] border-quiet bg-ground"
          value={size}
          onChange={(event) => {
            const next = Number(event.target.value);
            set(Math.round((value / size) * next));
            setSize(next);
          }}
        >
          {units.map(([unit, says]) => (
            <option key={says} value={unit}>
              {says}
            </option>
          ))}
        </select>
      ) : (
        units[0]?.[1]
      )}
    </span>
  );
}

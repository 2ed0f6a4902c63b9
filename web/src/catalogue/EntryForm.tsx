import { createContext, useContext, useState } from 'react';
import type { Schema } from '../api/client';
import { ConditionField, simple } from './ConditionField';
import { blank, type Json, type JsonObject, resolve, type Shape } from './schema';

const field = 'w-full border-b-[1.5px] border-quiet bg-transparent min-h-8';

/** What is wrong with the entry; each fault is said under the field that it is about. */
export const Faults = createContext<readonly Schema['CatalogueFault'][]>([]);

/** Said under a field: what is wrong with it, and with what it holds where that has no field of its own. */
function Wrong({ at, below = false }: { at: string; below?: boolean }) {
  const here = useContext(Faults).filter(
    (f) => f.pointer === at || (below && f.pointer.startsWith(`${at}/`)),
  );
  if (here.length === 0) return null;
  return (
    <span className="block text-sm text-wall">
      {here.map((f) => `${inWords(f.pointer.split('/').at(-1) ?? '')} ${f.message}`).join('; ')}.
    </span>
  );
}

/** An entry as a form, drawn from the schema of packs: what it may have, in the order in which the schema says it. */
export function EntryForm({
  shape,
  root,
  value,
  set,
  path = '',
  keys = [],
}: {
  shape: Shape;
  root: Shape;
  value: JsonObject;
  set: (value: JsonObject) => void;
  path?: string;
  /** The facts that a condition may ask for. */
  keys?: readonly Schema['FactDefinition'][];
}) {
  const names = Object.keys(shape.properties ?? {});
  const there = names.filter((n) => value[n] !== undefined || shape.required?.includes(n));
  const absent = names.filter((n) => !there.includes(n));
  const put = (name: string, next: Json | undefined) => {
    const others = Object.entries(value).filter(([member]) => member !== name);
    // A member that is there stays in its place.
    set(
      next === undefined
        ? Object.fromEntries(others)
        : name in value
          ? { ...value, [name]: next }
          : Object.fromEntries([...others, [name, next]]),
    );
  };
  return (
    <>
      {there.map((name) => (
        <Member
          key={name}
          name={name}
          at={`${path}/${name}`}
          shape={resolve(shape.properties?.[name] ?? {}, root)}
          root={root}
          value={value[name]}
          required={shape.required?.includes(name) ?? false}
          keys={keys}
          set={(next) => {
            put(name, next);
          }}
        />
      ))}
      {absent.length > 0 && (
        <label className="flex items-center gap-2 py-1 text-sm">
          <span className="text-quiet">Say more</span>
          <select
            className="min-h-8 border-b-[1.5px] border-quiet bg-ground"
            value=""
            aria-label={`Add to ${path === '' ? 'the entry' : path}`}
            onChange={(event) => {
              const name = event.target.value;
              if (name !== '') put(name, blank(shape.properties?.[name] ?? {}, root));
            }}
          >
            <option value="">…</option>
            {absent.map((name) => (
              <option key={name} value={name}>
                {inWords(name)}
              </option>
            ))}
          </select>
        </label>
      )}
    </>
  );
}

interface MemberProps {
  name: string;
  at: string;
  shape: Shape;
  root: Shape;
  value: Json | undefined;
  required: boolean;
  keys: readonly Schema['FactDefinition'][];
  set: (value: Json | undefined) => void;
}

/** A field, and under it what is wrong with it. Members of its own have fields of their own. */
function Member(props: MemberProps) {
  const items = props.shape.items ? resolve(props.shape.items, props.root) : undefined;
  const parts = props.shape.oneOf ? undefined : items?.oneOf ? undefined : (items ?? props.shape).properties;
  return (
    <div>
      <Field {...props} />
      <Wrong at={props.at} below={!parts} />
    </div>
  );
}

function Field({ name, at, shape, root, value, required, keys, set }: MemberProps) {
  const label = (
    <span className="flex items-baseline justify-between">
      <span className="text-[13px] text-quiet">
        {inWords(name)}
        {shape.description && <span className="block text-xs">{shape.description}</span>}
      </span>
      {!required && (
        <button
          type="button"
          className="min-h-6 text-xs text-quiet underline"
          aria-label={`Take ${at} out`}
          onClick={() => {
            set(undefined);
          }}
        >
          take out
        </button>
      )}
    </span>
  );
  if (shape.enum)
    return (
      <label className="block py-0.5">
        {label}
        <select
          className={`${field} bg-ground`}
          data-at={at}
          value={typeof value === 'string' ? value : ''}
          onChange={(event) => {
            set(event.target.value);
          }}
        >
          {shape.enum.map((choice) => (
            <option key={choice}>{choice}</option>
          ))}
        </select>
      </label>
    );
  if (shape.type === 'boolean')
    return (
      <label className="flex min-h-8 items-center gap-2 py-0.5">
        <input
          type="checkbox"
          className="h-4 w-4 accent-ink"
          data-at={at}
          checked={value === true}
          onChange={(event) => {
            set(event.target.checked);
          }}
        />
        <span className="flex-1">{label}</span>
      </label>
    );
  if (shape.type === 'string')
    return (
      <label className="block py-0.5">
        {label}
        <input
          className={field}
          data-at={at}
          value={typeof value === 'string' ? value : ''}
          onChange={(event) => {
            set(event.target.value);
          }}
        />
      </label>
    );
  if (shape.type === 'integer')
    return (
      <label className="block py-0.5">
        {label}
        <input
          type="number"
          className={field}
          data-at={at}
          value={typeof value === 'number' ? value : ''}
          onChange={(event) => {
            set(event.target.value === '' ? undefined : Math.round(Number(event.target.value)));
          }}
        />
      </label>
    );
  const items = shape.items ? resolve(shape.items, root) : undefined;
  if (shape.type === 'array' && items?.type === 'object' && items.properties && !items.oneOf)
    return <Several label={label} at={at} items={items} root={root} value={value} keys={keys} set={set} />;
  if (shape.type === 'array' && (items?.type === 'string' || items?.enum))
    return (
      <label className="block py-0.5">
        {label}
        <textarea
          className={`${field} font-value text-[13px]`}
          data-at={at}
          rows={Math.max(1, Array.isArray(value) ? value.length : 1)}
          placeholder="one a line"
          value={Array.isArray(value) ? value.filter((v) => typeof v === 'string').join('\n') : ''}
          onChange={(event) => {
            set(event.target.value === '' ? [] : event.target.value.split('\n'));
          }}
        />
      </label>
    );
  if (shape.type === 'object' && shape.properties && !shape.oneOf)
    return (
      <fieldset className="my-1 border-l-2 border-rule pl-3">
        <legend className="w-full">{label}</legend>
        <EntryForm
          shape={shape}
          root={root}
          value={(value ?? {}) as JsonObject}
          set={set}
          path={at}
          keys={keys}
        />
      </fieldset>
    );
  const condition = shape.oneOf ? simple(value, keys) : null;
  if (condition) return <ConditionField at={at} label={label} value={condition} keys={keys} set={set} />;
  return <AsJson label={label} at={at} value={value} set={set} />;
}

function Several({
  label,
  at,
  items,
  root,
  value,
  keys,
  set,
}: {
  label: React.ReactNode;
  at: string;
  items: Shape;
  root: Shape;
  value: Json | undefined;
  keys: readonly Schema['FactDefinition'][];
  set: (value: Json | undefined) => void;
}) {
  const list = Array.isArray(value) ? (value as JsonObject[]) : [];
  const faults = useContext(Faults);
  const faulty = (pointer: string) => faults.some((f) => f.pointer.startsWith(`${pointer}/`));
  return (
    <fieldset className="my-1">
      <legend className="w-full">{label}</legend>
      {list.map((item, i) => (
        <details
          key={i}
          className="border-b border-rule"
          open={Object.values(item).every((v) => v === '') || faulty(`${at}/${i}`)}
        >
          <summary className="min-h-8 cursor-pointer">{nameOf(item, i)}</summary>
          <div className="border-l-2 border-rule pl-3">
            <EntryForm
              shape={items}
              root={root}
              value={item}
              path={`${at}/${i}`}
              keys={keys}
              set={(next) => {
                set(list.map((o, j) => (j === i ? next : o)));
              }}
            />
            <button
              type="button"
              className="min-h-8 text-sm underline"
              aria-label={`Take ${at}/${i} out`}
              onClick={() => {
                set(list.filter((_, j) => j !== i));
              }}
            >
              Take it out
            </button>
          </div>
        </details>
      ))}
      <button
        type="button"
        className="min-h-8 text-sm underline"
        aria-label={`One more ${at}`}
        onClick={() => {
          set([...list, blank(items, root)]);
        }}
      >
        One more
      </button>
    </fieldset>
  );
}

/** "supportEnds" as one says it: "Support ends". */
const inWords = (name: string) => {
  const words = name.replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`);
  return words.charAt(0).toUpperCase() + words.slice(1);
};

const nameOf = (item: JsonObject, i: number) => {
  const name = item['id'] ?? item['says'] ?? item['text'] ?? item['from'];
  return typeof name === 'string' && name !== '' ? name : `number ${i + 1}`;
};

/** What has no fixed form, such as a condition, is written as JSON. */
function AsJson({
  label,
  at,
  value,
  set,
}: {
  label: React.ReactNode;
  at: string;
  value: Json | undefined;
  set: (value: Json | undefined) => void;
}) {
  const shown = JSON.stringify(value ?? {}, null, 1);
  const [state, setState] = useState({ shown, text: shown, broken: false });
  // A change from the other side of the page comes in, but not over what is being typed.
  if (state.shown !== shown)
    setState(same(state.text, shown) ? { ...state, shown } : { shown, text: shown, broken: false });
  const { text, broken } = state;
  return (
    <label className="block py-0.5">
      {label}
      <textarea
        className={`${field} font-value text-[13px] leading-snug ${broken ? 'border-wall' : ''}`}
        data-at={at}
        rows={Math.min(12, text.split('\n').length)}
        spellCheck={false}
        value={text}
        onChange={(event) => {
          const typed = event.target.value;
          try {
            const read = JSON.parse(typed) as Json;
            setState({ shown, text: typed, broken: false });
            set(read);
          } catch {
            setState({ shown, text: typed, broken: true });
          }
        }}
      />
      {broken && <span className="text-sm text-wall">This is no JSON yet.</span>}
    </label>
  );
}

const same = (one: string, other: string) => {
  try {
    return JSON.stringify(JSON.parse(one)) === JSON.stringify(JSON.parse(other));
  } catch {
    return false;
  }
};

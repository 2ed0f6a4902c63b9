import { Radio, RadioGroup } from '@headlessui/react';
import { useId, useState } from 'react';
import type { Schema } from '../api/client';
import { useEnterFact } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { definitionOf, labelOf } from './facts';

interface Props {
  tag: string;
  factKey: string;
  keys: readonly Schema['FactDefinition'][];
  /** It keeps the rung open: asked first, with how to find it out. */
  loud?: boolean;
  /** The answer that stands, when a fact is corrected. */
  value?: string;
  onDone?: () => void;
}

/** Asks for one fact, and says how to find it out at the bench. */
export function FactQuestion({ tag, factKey, keys, loud = false, value, onDone }: Props) {
  const definition = definitionOf(factKey, keys);
  const enter = useEnterFact(tag);
  const [who] = useWho();
  if (!definition) return null;

  const save = (answer: string) => {
    enter.mutate(
      { key: factKey, value: answer, source: 'seen at the bench', by: who || nobody },
      { onSuccess: () => onDone?.() },
    );
  };
  return (
    <div className={`py-1.5 ${loud ? 'border-b border-rule' : ''}`}>
      {definition.form === 'choice' && !definition.derived ? (
        <Choice
          definition={definition}
          label={labelOf(factKey, keys)}
          value={value}
          save={save}
          busy={enter.isPending}
        />
      ) : (
        <Typed
          definition={definition}
          label={labelOf(factKey, keys)}
          value={value}
          save={save}
          busy={enter.isPending}
        />
      )}
      {loud && (
        <p className="text-sm text-quiet">
          {definition.howToMeasure} About {definition.minutes} min.
        </p>
      )}
      {enter.error && <Failed error={enter.error} />}
    </div>
  );
}

interface FieldProps {
  definition: Schema['FactDefinition'];
  label: string;
  value: string | undefined;
  save: (answer: string) => void;
  busy: boolean;
}

function Choice({ definition, label, value, save, busy }: FieldProps) {
  const [picked, setPicked] = useState<string | null>(value ?? null);
  const id = useId();
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <span id={id} className="w-36 shrink-0 font-semibold">
        {label}
      </span>
      <RadioGroup
        aria-labelledby={id}
        value={picked}
        disabled={busy}
        onChange={setPicked}
        className="flex flex-wrap gap-1"
        onKeyDown={(event) => {
          // The arrows only move; Enter or a click says it.
          if (event.key === 'Enter' && picked) save(picked);
        }}
      >
        {definition.choices.map((choice) => (
          <Radio
            key={choice.value}
            value={choice.value}
            onClick={() => {
              save(choice.value);
            }}
            className="flex min-h-9 cursor-pointer items-center border-[1.5px] border-quiet px-2.5 text-sm data-checked:border-ink data-checked:bg-ink data-checked:font-semibold data-checked:text-ground data-hover:border-ink"
          >
            {choice.meaning}
          </Radio>
        ))}
      </RadioGroup>
    </div>
  );
}

const example: Record<string, string> = { MiB: 'such as 8 GiB', B: 'such as 250 GB' };

function Typed({ definition, label, value, save, busy }: FieldProps) {
  const [text, setText] = useState(value ?? '');
  return (
    <form
      className="flex flex-wrap items-center gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) save(text.trim());
      }}
    >
      <label className="flex flex-1 items-center gap-3">
        <span className="w-36 shrink-0 font-semibold">{label}</span>
        <input
          className="h-9 min-w-0 flex-1 border-b-[1.5px] border-ink bg-transparent font-value"
          value={text}
          placeholder={definition.unit ? example[definition.unit] : ''}
          onChange={(event) => {
            setText(event.target.value);
          }}
        />
      </label>
      <button
        disabled={busy || !text.trim()}
        className="min-h-9 bg-ink px-4 text-sm font-semibold text-ground"
      >
        Save
      </button>
    </form>
  );
}

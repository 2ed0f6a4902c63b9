import { Label, Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react';
import { useQuery } from '@tanstack/react-query';
import type { Schema } from '../api/client';
import { machines, orders, useAside, usePlace } from '../api/queries';
import { nobody, useWho } from '../shell/who';

const bays = [1, 2, 3, 4, 5, 6];

/** Where the machine stands. Another bay is a click away; who stands there already is said, and the two change places. */
export function Stands({ sheet }: { sheet: Schema['MachineSheet'] }) {
  const place = usePlace(sheet.tag);
  const there = useQuery(machines).data ?? [];
  const [who] = useWho();
  const left = sheet.facts.find((f) => f.key === 'handover.left')?.value === 'yes';
  const where = (bay: number | null) => (bay === null ? (left ? 'Left' : 'Shelf') : `Bay ${bay}`);
  return (
    <div>
      <Picked
        label="Stands in"
        value={sheet.bay}
        says={where(sheet.bay)}
        pick={(bay: number | null) => {
          place.mutate({ bay, by: who || nobody, swap: true });
        }}
        options={[null, ...bays].map((bay) => ({
          value: bay,
          says: where(bay),
          more: bay === null ? '' : (there.find((m) => m.bay === bay && m.tag !== sheet.tag)?.tag ?? 'free'),
        }))}
      />
      {place.error && (
        <p role="alert" className="max-w-40 text-sm text-wall">
          {place.error.message}
        </p>
      )}
    </div>
  );
}

/** For whom the machine is made ready. */
export function ForOrder({ sheet }: { sheet: Schema['MachineSheet'] }) {
  const aside = useAside();
  const known = useQuery(orders).data ?? [];
  const [who] = useWho();
  const own = sheet.facts.find((f) => f.key === 'order.name')?.value;
  const now = known.find((o) => o.order.name === own)?.order.name ?? null;
  return (
    <Picked
      label="Order"
      value={now}
      says={now ?? 'nobody’s yet'}
      pick={(order: string | null) => {
        aside.mutate({ tag: sheet.tag, order, by: who || nobody });
      }}
      options={[
        { value: null, says: 'nobody’s yet', more: '' },
        ...known.map((o) => ({
          value: o.order.name,
          says: o.order.name,
          more: o.missing > 0 ? `${o.missing} missing` : 'full',
        })),
      ]}
    />
  );
}

interface PickedProps<T> {
  label: string;
  value: T;
  says: string;
  pick: (value: T) => void;
  options: { value: T; says: string; more: string }[];
}

function Picked<T>({ label, value, says, pick, options }: PickedProps<T>) {
  return (
    <div>
      <Listbox value={value} onChange={pick}>
        <Label className="caption block">{label}</Label>
        <ListboxButton className="block min-h-8 max-w-36 truncate text-left font-semibold underline decoration-rule decoration-2 underline-offset-4">
          {says}
        </ListboxButton>
        <ListboxOptions anchor="bottom end" className="z-20 min-w-48 border-2 border-ink bg-sheet">
          {options.map((option) => (
            <ListboxOption
              key={String(option.value)}
              value={option.value}
              className="flex min-h-11 items-center justify-between gap-5 px-3 data-focus:bg-ink data-focus:text-ground"
            >
              <span>{option.says}</span>
              <span className="font-value text-sm">{option.more}</span>
            </ListboxOption>
          ))}
        </ListboxOptions>
      </Listbox>
    </div>
  );
}

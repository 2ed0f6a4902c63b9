/** A line to write on. */
export function Write({
  label,
  value,
  set,
  scan = false,
}: {
  label: string;
  value: string;
  set: (value: string) => void;
  scan?: boolean;
}) {
  return (
    <label className="block w-full min-w-0">
      <span className="caption block">{label}</span>
      <input
        className="h-9 w-full border-b-2 border-ink bg-transparent"
        data-scan={scan ? 'field' : undefined}
        value={value}
        onChange={(event) => {
          set(event.target.value);
        }}
      />
    </label>
  );
}

/** A choice. */
export function Choose({
  label,
  value,
  set,
  children,
}: {
  label: string;
  value: string;
  set: (value: string) => void;
  children: React.ReactNode;
}) {
  return (
    <label className="block w-full min-w-0">
      <span className="caption block">{label}</span>
      <select
        className="h-9 w-full border-b-2 border-ink bg-ground"
        value={value}
        onChange={(event) => {
          set(event.target.value);
        }}
      >
        {children}
      </select>
    </label>
  );
}

/** A text as a file holds it, to be read and copied. */
export function Listing({ label, text }: { label: string; text: string }) {
  return (
    <pre
      tabIndex={0}
      aria-label={label}
      className="mt-1 max-h-72 overflow-auto border-l-2 border-ink bg-sheet px-3 py-1 font-value text-[12.5px] whitespace-pre-wrap"
    >
      {text}
    </pre>
  );
}

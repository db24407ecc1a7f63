/** EmptyPage is a page without steps, and the ways to begin one. */
export function EmptyPage({
  editable,
  examples,
  onWrite,
  onBring,
  onHeader,
}: {
  editable: boolean;
  examples: string[];
  onWrite: () => void;
  onBring: () => void;
  onHeader: () => void;
}) {
  if (!editable) return <p className="p-8 text-ink-2">This revision has no steps.</p>;
  return (
    <div className="max-w-[520px] p-10">
      <h2 className="text-head">An empty page</h2>
      <p className="mt-1.5 text-ink-2">
        Write the first step in the line below, in plain words. It becomes a step that the virtual engine can follow. A whole
        numbered page can be pasted there too, from a word processor with its lists and tables.
      </p>
      <p className="mt-3 font-mono text-small leading-6">
        {examples.map((line) => (
          <span key={line} className="block">
            {line}
          </span>
        ))}
      </p>
      <div className="mt-4 flex gap-2">
        <button type="button" className="button solid" onClick={onWrite}>
          Write the first step
        </button>
        <button type="button" className="button" onClick={onBring}>
          Bring an old page…
        </button>
        <button type="button" className="button" onClick={onHeader}>
          Title and preparation
        </button>
      </div>
    </div>
  );
}

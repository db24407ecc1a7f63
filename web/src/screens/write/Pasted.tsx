import { Dialog } from "radix-ui";
import { useCallback, useLayoutEffect, useRef, useState } from "react";
import type { S } from "../../api/client";
import { Pieces, sentence } from "./Pieces";

type Reading = S["Reading"];
interface Item {
  key: number;
  text: string;
  reading: Reading;
}

const outcome = (r: Reading) => (!r.problem ? "reads" : r.choices.length > 0 || r.parts ? "asks" : "stays text");

/** Old is a page that was written elsewhere: what it is called, and its lines that become no step. */
export type Old = { name: string; left: S["OldLine"][] };

/** Left lists the lines that are not taken, each with its reason; torques that the engine sheet has otherwise stand open. */
function Left({ old }: { old: Old }) {
  const differ = old.left.filter((l) => l.outcome === "differs");
  const rest = old.left.filter((l) => l.outcome !== "differs");
  if (old.left.length === 0) return null;
  const row = (l: S["OldLine"]) => (
    <li
      key={`${l.number} ${l.text}`}
      className="grid grid-cols-[34px_minmax(0,1fr)_minmax(0,1fr)] gap-x-2 border-b border-rule py-1 text-small last:border-b-0 max-md:grid-cols-[34px_minmax(0,1fr)]"
    >
      <span className="num pr-2 text-right text-fine text-ink-2">{l.number}</span>
      <span className="min-w-0 font-mono break-words">{l.text}</span>
      <span className="text-ink-2 max-md:col-start-2">{l.why}</span>
    </li>
  );
  return (
    <div className="mt-2">
      {differ.length > 0 && (
        <section className="border-l-[3px] border-clash bg-clash-wash px-3 py-1.5" aria-label="Torques that differ">
          <p className="font-[650]">
            {differ.length} torque{differ.length === 1 ? " is" : "s are"} not as the engine sheet has{" "}
            {differ.length === 1 ? "it" : "them"}
          </p>
          <ul className="max-h-[18vh] overflow-auto">{differ.map(row)}</ul>
        </section>
      )}
      {rest.length > 0 && (
        <details className="mt-1">
          <summary className="cursor-default text-ink-2">
            {rest.length} line{rest.length === 1 ? " becomes" : "s become"} no step: what, and why
          </summary>
          <ul className="max-h-[24vh] overflow-auto border-y border-rule">{rest.map(row)}</ul>
        </details>
      )}
    </div>
  );
}

/**
 * Pasted shows a pasted page before anything is written: left the lines, right what each becomes. Lines are walked and mended
 * from the keyboard; all of them become steps with one key, and are undone as one.
 */
export function Pasted({
  lines,
  old,
  read,
  onTake,
  onClosed,
  onCancel,
}: {
  lines: Reading[];
  /** old is the page that was written elsewhere, where the lines come from one */
  old?: Old;
  read: (text: string) => Promise<Reading | undefined>;
  onTake: (readings: Reading[]) => void;
  /** onClosed takes the keyboard where it goes on */
  onClosed: () => void;
  onCancel: (left: Reading[]) => void;
}) {
  const [items, setItems] = useState<Item[]>(() =>
    lines.map((reading, key) => ({ key, text: reading.line.map((p) => p.text).join(""), reading })),
  );
  const list = useRef<HTMLOListElement>(null);
  const asked = useRef(new Map<number, number>());
  const field = useCallback((i: number) => list.current?.querySelectorAll<HTMLInputElement>("input")[i], []);
  // Where the cursor goes once the lines are drawn anew.
  const goTo = useRef<number>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only new lines move it
  useLayoutEffect(() => {
    if (goTo.current !== undefined) field(goTo.current)?.focus();
    goTo.current = undefined;
  }, [items]);
  const count = (what: string) => items.filter((i) => outcome(i.reading) === what).length;
  const type = async (key: number, text: string) => {
    setItems((all) => all.map((i) => (i.key === key ? { ...i, text } : i)));
    const turn = (asked.current.get(key) ?? 0) + 1;
    asked.current.set(key, turn);
    const reading = text.trim() ? await read(text) : undefined;
    if (reading && asked.current.get(key) === turn)
      setItems((all) =>
        all.map((i) => (i.key === key ? { ...i, reading: { ...reading, ahead: reading.aside && i.reading.ahead } } : i)),
      );
  };
  // A line with several instructions becomes as many lines, each read for itself.
  const apart = async (i: number) => {
    const item = items[i];
    const readings = await Promise.all((item.reading.parts ?? []).map((p) => read(p)));
    if (readings.some((r) => !r)) return;
    goTo.current = i + readings.length - 1;
    setItems((all) => {
      const free = Math.max(...all.map((o) => o.key)) + 1;
      const made = readings.flatMap((r, k) =>
        r ? [{ key: k === 0 ? item.key : free + k, text: item.reading.parts?.[k] ?? "", reading: r }] : [],
      );
      return all.flatMap((o) => (o.key === item.key ? made : [o]));
    });
  };
  const drop = (i: number) => {
    goTo.current = Math.max(0, Math.min(i, items.length - 2));
    setItems((all) => all.filter((_, k) => k !== i));
  };
  const take = () => onTake(items.filter((i) => i.text.trim()).map((i) => i.reading));
  const keys = (e: React.KeyboardEvent, i: number) => {
    const item = items[i];
    const next = (from: number, by: 1 | -1) => {
      for (let k = from + by; k >= 0 && k < items.length; k += by) if (items[k].reading.problem) return k;
      return from;
    };
    if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) return;
    if (e.key === "ArrowDown" && e.altKey) field(next(i, 1))?.focus();
    else if (e.key === "ArrowUp" && e.altKey) field(next(i, -1))?.focus();
    else if (e.key === "ArrowDown" || e.key === "Enter") field(Math.min(items.length - 1, i + 1))?.focus();
    else if (e.key === "ArrowUp") field(Math.max(0, i - 1))?.focus();
    else if (e.key === "Tab" && !e.shiftKey && item.reading.choices[0]) type(item.key, item.reading.choices[0]);
    else if (e.key === "Tab" && !e.shiftKey && item.reading.parts) apart(i);
    else if (e.key === "Delete" && e.ctrlKey) drop(i);
    else return;
    e.preventDefault();
  };
  return (
    <Dialog.Root open onOpenChange={(o) => !o && onCancel(items.map((i) => i.reading))}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content
          className="float dialog !w-[min(1180px,94vw)] !max-w-none"
          onKeyDown={(e) => {
            if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
              e.preventDefault();
              take();
            }
          }}
          onCloseAutoFocus={(e) => {
            e.preventDefault();
            onClosed();
          }}
          onOpenAutoFocus={(e) => {
            e.preventDefault();
            field(
              Math.max(
                0,
                lines.findIndex((l) => l.problem),
              ),
            )?.focus();
          }}
        >
          <div className="flex items-baseline gap-x-4 max-md:block">
            <Dialog.Title className="min-w-0 truncate text-head">
              {old ? old.name : "A pasted page"}: {items.length} line{items.length === 1 ? "" : "s"}
            </Dialog.Title>
            <Dialog.Description className="text-ink-2">
              {count("reads")} read, {count("asks")} ask, {count("stays text")} stay text. Nothing is written yet.
            </Dialog.Description>
          </div>
          {old && <Left old={old} />}
          <ol ref={list} className="mt-3 max-h-[62vh] overflow-auto border-y border-rule">
            {items.map((item, i) => (
              <li
                key={item.key}
                data-outcome={outcome(item.reading)}
                className="grid grid-cols-[34px_minmax(0,1fr)_86px_minmax(0,1.15fr)] items-start border-b border-rule last:border-b-0 focus-within:bg-marking-wash max-md:grid-cols-[28px_minmax(0,1fr)]"
              >
                <span className="num pt-[7px] pr-2 text-right text-fine text-ink-2">{i + 1}</span>
                <input
                  aria-label={`Line ${i + 1}`}
                  value={item.text}
                  spellCheck={false}
                  autoComplete="off"
                  onChange={(e) => type(item.key, e.target.value)}
                  onKeyDown={(e) => keys(e, i)}
                  className="min-w-0 bg-transparent py-1.5 font-mono text-small outline-none"
                />
                <span
                  className={`px-2 pt-[7px] text-fine font-[650] max-md:col-start-2 max-md:px-0 max-md:pt-0 ${
                    { reads: "text-held", asks: "text-marking", "stays text": "text-ink-2" }[outcome(item.reading)]
                  }`}
                >
                  {item.reading.aside ?? outcome(item.reading)}
                </span>
                <div className="min-w-0 py-1.5 pr-2 max-md:col-start-2 max-md:pt-0">
                  {item.reading.problem ? (
                    <>
                      <Pieces line={item.reading.line} />
                      <p className="text-fine text-ink-2">{sentence(item.reading.problem)}</p>
                      {item.reading.parts && (
                        <button
                          type="button"
                          tabIndex={-1}
                          className="block max-w-full text-left font-mono text-fine text-marking underline-offset-2 hover:underline"
                          onClick={() => apart(i)}
                        >
                          {item.reading.parts.length} steps: {item.reading.parts.join(" / ")}
                        </button>
                      )}
                      {item.reading.choices.slice(0, 4).map((c) => (
                        <button
                          type="button"
                          key={c}
                          tabIndex={-1}
                          className="block max-w-full truncate text-left font-mono text-fine text-marking underline-offset-2 hover:underline"
                          onClick={() => {
                            type(item.key, c);
                            field(i)?.focus();
                          }}
                        >
                          {c}
                        </button>
                      ))}
                    </>
                  ) : (
                    item.reading.sentence
                  )}
                </div>
              </li>
            ))}
          </ol>
          <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2 text-small text-ink-2 max-md:[&>.hint]:hidden">
            <span className="hint">
              <span className="key">↑ ↓</span> lines
            </span>
            <span className="hint">
              <span className="key">Alt ↓</span> next that does not read
            </span>
            <span className="hint">
              <span className="key">Tab</span> take the first offer
            </span>
            <span className="hint">
              <span className="key">Ctrl Del</span> leave the line out
            </span>
            <span className="flex-1" />
            <button type="button" className="button quiet" onClick={() => onCancel(items.map((i) => i.reading))}>
              {old ? "Later" : "Cancel"}
            </button>
            <button type="button" className="button solid" disabled={items.length === 0} onClick={take}>
              Add {items.length} lines <span className="opacity-75 max-md:hidden">Ctrl Enter</span>
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

import { Popover } from "radix-ui";
import { forwardRef, useCallback, useEffect, useImperativeHandle, useRef, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { typedEarly } from "../../shell/early";
import { inSession, type Line, Lines } from "./lines";
import { type Old, Pasted } from "./Pasted";
import { Pieces, sentence } from "./Pieces";
import type { Draft } from "./useDraft";
import { useWaiting } from "./useWaiting";

type Reading = S["Reading"];

export interface QuickLineHandle {
  focus: () => void;
  /** bring asks for the files of a page that was written elsewhere */
  bring: () => void;
}

/** how long a line may wait before the screen says that it is not saved, ms */
const patience = 900;
/** how long one question may take before it is asked again, ms */
const deadline = 12000;

/** useLines keeps the lines that left the quick line and are not steps yet. */
function useLines(
  revision: number,
  read: (text: string, phase?: string) => Promise<Reading | undefined>,
  onAdd: (readings: Reading[], after: string) => string,
) {
  const [, redraw] = useState(0);
  const [late, setLate] = useState(false);
  const add = useRef(onAdd);
  add.current = onAdd;
  const ask1 = useRef(read);
  ask1.current = read;
  const ready = useRef(new Map<string, Reading>());
  const lines = useRef<Lines<Reading>>(undefined);
  lines.current ??= new Lines<Reading>(
    inSession(`lines-${revision}`),
    async (line: Line) => {
      const known = ready.current.get(line.text);
      if (known) return known;
      const r = await ask1.current(line.text, line.phase);
      if (!r) throw new Error("The server gave no answer to it.");
      return r;
    },
    (line, reading, after) => {
      ready.current.delete(line.text);
      return add.current([reading], after);
    },
    () => redraw((n) => n + 1),
  );
  const l = lines.current;
  useEffect(() => {
    l.start();
    return () => l.stop();
  }, [l]);
  const first = l.waiting[0]?.key;
  useEffect(() => {
    setLate(false);
    if (!first) return;
    const t = setTimeout(() => setLate(true), patience);
    return () => clearTimeout(t);
  }, [first]);
  return { lines: l, ready: ready.current, late };
}

/** QuickLine writes the next step as one line: it completes names, shows what the line becomes, and says what it does not understand. */
export const QuickLine = forwardRef<
  QuickLineHandle,
  {
    revision: number;
    draft: Draft;
    after: string;
    /** where is what after has become since this was drawn */
    where: () => string;
    phase?: string;
    number: number;
    example?: string;
    onAdd: (readings: Reading[], after: string) => string;
    onLeave: () => void;
  }
>(function QuickLine({ revision, draft, after, where, phase, number, example, onAdd, onLeave }, ref) {
  const typedAs = `typed-${revision}`;
  const [text, setText] = useState(() => sessionStorage.getItem(typedAs) ?? "");
  const [answer, setAnswer] = useState<{ line: string; reading?: Reading; completions: S["Completion"][] }>();
  const [pick, setPick] = useState(-1);
  const [focused, setFocused] = useState(false);
  const [pasted, setPasted] = useState<Reading[]>();
  const [old, setOld] = useState<Old>();
  const [bringing, setBringing] = useState("");
  // An old page that was left half way is kept for as long as the window is open.
  const [begun, keep] = useWaiting(revision);
  const file = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState("");
  const input = useRef<HTMLInputElement>(null);
  useImperativeHandle(ref, () => ({ focus: () => input.current?.focus(), bring: () => file.current?.click() }));
  useEffect(() => {
    if (text) sessionStorage.setItem(typedAs, text);
    else sessionStorage.removeItem(typedAs);
  }, [text, typedAs]);
  const readPage = useCallback(
    (page: string, from?: string) =>
      ask(
        api.POST("/api/revisions/{revision}/read", {
          params: { path: { revision } },
          body: { text: page, phase: from },
          signal: AbortSignal.timeout(deadline),
        }),
      ),
    [revision],
  );
  // A page that was written elsewhere: its files, one after another, or what was copied from it.
  const bring = async (files: { name: string; body: Blob }[]) => {
    setTrouble("");
    const all: Reading[] = [];
    const left: Old["left"] = [];
    let lines = 0;
    try {
      for (const f of files) {
        setBringing(`Reading ${f.name}…`);
        const page = await ask(
          api.POST("/api/revisions/{revision}/old-page", {
            params: { path: { revision }, query: { name: f.name.slice(-200) } },
            body: f.body as unknown as string,
            bodySerializer: (b) => b as unknown as BodyInit,
            headers: { "content-type": "application/octet-stream" },
          }),
        );
        all.push(...page.readings);
        left.push(...page.left.map((l) => ({ ...l, number: l.number + lines })));
        lines += page.lines;
      }
      const page = { name: files.map((f) => f.name).join(", "), left };
      if (all.length > 0) keep({ old: page, readings: all });
      setOld(page);
      setPasted(all);
    } catch (e) {
      setTrouble(e instanceof Error ? e.message : "That could not be read.");
    } finally {
      setBringing("");
    }
  };
  const readOne = useCallback(async (line: string, from?: string) => (await readPage(line, from))[0], [readPage]);
  const { lines, ready, late } = useLines(revision, readOne, onAdd);
  const { look, unlook } = draft;
  const ask1 = useCallback(
    async (line: string) => {
      if (!line.trim()) {
        unlook();
        setAnswer(undefined);
        return;
      }
      const r = await look({ line, after });
      if (r) {
        setAnswer({ line, reading: r.reading, completions: r.completions });
        setPick(-1);
      }
    },
    [look, unlook, after],
  );
  const type = (t: string) => {
    setText(t);
    ask1(t);
  };
  // A page that was just started takes every key from the first.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when it appears
  useEffect(() => {
    const keys = typedEarly();
    if (keys === undefined) return;
    input.current?.focus();
    if (keys) type(text + keys);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again only when the place changes
  useEffect(() => {
    if (text && focused) ask1(text);
  }, [after]);
  const add = () => {
    const line = text.trim();
    if (!line) return;
    if (answer?.line === text && answer.reading) ready.set(line, answer.reading);
    setText("");
    setAnswer(undefined);
    unlook();
    lines.add(line, where(), phase);
  };
  const problem = answer?.reading?.problem;
  const completions = answer?.completions ?? [];
  // Where nothing can be completed, Tab takes the nearest whole reading, or the steps the line comes apart into.
  const parts = problem && answer?.line === text ? (answer.reading?.parts ?? []) : [];
  const apart =
    parts.length > 0 ? { line: parts.join(" / "), label: parts.join(" / "), hint: `${parts.length} steps` } : undefined;
  const offered = apart
    ? [apart]
    : completions.length > 0 || !problem
      ? completions
      : (answer?.reading?.choices ?? []).map((c) => ({ line: c, label: c, hint: "reads" }));
  const take = (c: S["Completion"]) => {
    if (c === apart) {
      setText("");
      setAnswer(undefined);
      unlook();
      for (const part of parts) lines.add(part, where(), phase);
      return;
    }
    type(completions.length > 0 ? `${c.line.trimEnd()} ` : c.line);
    input.current?.focus();
  };
  // While a word can still be completed, nothing is wrong with it yet.
  const told = answer?.reading && !(problem && completions.length > 0 && answer.reading.choices.length === 0);
  const open = focused && text !== "" && (offered.length > 0 || !!told);
  const waiting = lines.waiting;
  return (
    <div className="relative flex-none border-t border-ink bg-(--white)">
      <Popover.Root open={open}>
        <Popover.Anchor className="absolute right-3 bottom-[38px] left-[76px] h-0" />
        <Popover.Content
          side="top"
          align="start"
          sideOffset={2}
          className="float z-20 w-(--radix-popover-trigger-width) overflow-hidden"
          id="quick-offers"
          role="listbox"
          aria-label="Ways to go on"
          onOpenAutoFocus={(e) => e.preventDefault()}
          onCloseAutoFocus={(e) => e.preventDefault()}
          onEscapeKeyDown={(e) => e.preventDefault()}
        >
          {offered.map((c, i) => (
            <div
              key={c.line}
              id={`offer-${i}`}
              role="option"
              tabIndex={-1}
              aria-selected={i === pick}
              onMouseDown={(e) => {
                e.preventDefault();
                take(c);
              }}
              className="flex cursor-default gap-3 px-3 py-1 hover:bg-film aria-selected:bg-marking-wash"
            >
              <span className="min-w-0 flex-1 truncate font-mono text-small">
                <span className="text-ink-3">{c.line.slice(0, Math.max(0, c.line.trimEnd().length - c.label.length))}</span>
                {c.label}
              </span>
              <span className="max-w-[45%] truncate text-fine text-ink-2">{c.hint}</span>
            </div>
          ))}
          {told && answer?.reading && (
            <div className={`border-t border-rule px-3 py-1.5 ${problem ? "bg-paint-wash" : "bg-held-wash"}`}>
              {problem ? (
                <>
                  <div>
                    <Pieces line={answer.reading.line} />
                  </div>
                  <span className="font-[650]">Stays free text:</span> {sentence(problem)}
                  {offered.length > 0 && (apart || completions.length === 0) && (
                    <span className="text-ink-2">
                      {" "}
                      <span className="key">Tab</span>{" "}
                      {apart ? `adds it as ${parts.length} steps.` : "takes the nearest line that reads."}
                    </span>
                  )}
                </>
              ) : answer.reading.aside ? (
                <>
                  <span className="font-[650] text-held">✓</span>{" "}
                  {number > 0
                    ? `A ${answer.reading.aside} on step ${number}: `
                    : `A ${answer.reading.aside}, with no step above it: `}
                  {answer.reading.sentence}
                </>
              ) : (
                <>
                  <span className="font-[650] text-held">✓</span> {answer.reading.sentence}
                  {answer.reading.bolt && (
                    <span className={`block text-small ${answer.reading.badBolt ? "font-[650] text-clash" : "text-ink-2"}`}>
                      {answer.reading.badBolt && "✕ "}
                      {answer.reading.bolt}
                    </span>
                  )}
                </>
              )}
            </div>
          )}
        </Popover.Content>
      </Popover.Root>
      {waiting.length > 0 && (
        <ol aria-label="Lines being read" className="max-h-[120px] overflow-auto border-b border-rule bg-film">
          {waiting.map((w) => (
            <li key={w.key} className="flex items-center gap-3 px-3 py-0.5 text-ink-2" data-waiting>
              <span className="w-[64px] flex-none text-fine">being read</span>
              <span className="min-w-0 flex-1 truncate font-mono text-small">{w.text}</span>
              {late && (
                <button type="button" className="button quiet slim" onClick={() => lines.drop(w.key)}>
                  Remove
                </button>
              )}
            </li>
          ))}
        </ol>
      )}
      {(late || trouble) && (
        <p role="status" className="border-b border-rule bg-paint-wash px-3 py-1 text-small">
          {waiting.length > 0 ? (
            <>
              <span className="font-[650]">
                Not saved yet: {waiting.length} {waiting.length === 1 ? "line" : "lines"}.
              </span>{" "}
              {lines.why || "The server has not answered."} They are kept here and go out in this order as soon as it does.
            </>
          ) : (
            trouble
          )}
        </p>
      )}
      <p className="sr-only" role="status">
        {told && answer?.reading ? (problem ? `Stays free text: ${sentence(problem)}` : `Reads: ${answer.reading.sentence}`) : ""}
      </p>
      <div className="flex h-[38px] items-center gap-2 px-3">
        <label htmlFor="quick" className="whitespace-nowrap text-small text-ink-2">
          Next step
        </label>
        <input
          id="quick"
          ref={input}
          value={text}
          autoComplete="off"
          spellCheck={false}
          role="combobox"
          aria-expanded={open}
          aria-controls="quick-offers"
          aria-autocomplete="list"
          aria-activedescendant={pick >= 0 ? `offer-${pick}` : undefined}
          placeholder={example}
          onChange={(e) => type(e.target.value)}
          onFocus={() => setFocused(true)}
          onBlur={() => {
            setFocused(false);
            unlook();
          }}
          onPaste={async (e) => {
            const page = e.clipboardData.getData("text");
            if (!/\n\s*\S/.test(page.trim())) return;
            e.preventDefault();
            // From a word processor come lists, tables and headings with it.
            const marked = e.clipboardData.getData("text/html");
            if (/<(li|table|h[1-6])[\s>]/i.test(marked))
              return bring([{ name: "What was pasted.html", body: new Blob([marked]) }]);
            setTrouble("");
            setOld(undefined);
            try {
              setPasted(await readPage(page, phase));
            } catch (f) {
              setTrouble(`The page could not be read: ${f instanceof Error ? f.message : ""} Paste it again in a moment.`);
            }
          }}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") {
              e.preventDefault();
              if (pick >= 0 && offered[pick]) take(offered[pick]);
              else add();
            } else if (e.key === "Tab" && !e.shiftKey && offered.length > 0) {
              e.preventDefault();
              take(offered[Math.max(0, pick)]);
            } else if (e.key === "ArrowDown" && offered.length) {
              e.preventDefault();
              setPick((p) => (p + 1) % offered.length);
            } else if (e.key === "ArrowUp" && offered.length) {
              e.preventDefault();
              setPick((p) => (p <= 0 ? offered.length - 1 : p - 1));
            } else if (e.key === "Escape") {
              e.preventDefault();
              if (text) {
                setText("");
                setAnswer(undefined);
                unlook();
              } else {
                input.current?.blur();
                onLeave();
              }
            } else if ((e.key === "ArrowUp" || e.key === "ArrowDown") && !text) {
              input.current?.blur();
              onLeave();
            } else if ((e.ctrlKey || e.metaKey) && (e.key.toLowerCase() === "k" || (e.key.toLowerCase() === "z" && !text))) {
              window.dispatchEvent(new KeyboardEvent("keydown", { key: e.key, ctrlKey: true, shiftKey: e.shiftKey }));
              e.preventDefault();
            }
          }}
          className="min-w-0 flex-1 bg-transparent font-mono text-small outline-none placeholder:text-ink-3"
        />
        <span className="key">Enter</span>
        <span className="whitespace-nowrap text-small text-ink-2">
          {number > 0 ? `adds after ${number}` : "adds the first step"}
        </span>
      </div>
      <input
        ref={file}
        type="file"
        multiple
        className="sr-only"
        tabIndex={-1}
        aria-label="An old page"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])].map((f) => ({ name: f.name, body: f }));
          e.target.value = "";
          if (files.length) bring(files);
        }}
      />
      {begun && !pasted && !bringing && (
        <p className="flex flex-wrap items-center gap-x-3 border-t border-rule bg-marking-wash px-3 py-1 text-small">
          <span className="min-w-0 truncate">
            {begun.old.name}: {begun.readings.length} line{begun.readings.length === 1 ? " waits" : "s wait"} to be taken.
          </span>
          <button
            type="button"
            className="link"
            onClick={() => {
              setOld(begun.old);
              setPasted(begun.readings);
            }}
          >
            Go on
          </button>
          <button type="button" className="link" onClick={() => keep(undefined)}>
            Throw it away
          </button>
        </p>
      )}
      {bringing && (
        <p role="status" className="px-3 py-1 text-small text-ink-2">
          {bringing}
        </p>
      )}
      {pasted && (
        <Pasted
          lines={pasted}
          old={old}
          read={(line) => readOne(line, phase).catch(() => undefined)}
          onClosed={() => input.current?.focus()}
          onCancel={(left) => {
            setPasted(undefined);
            if (old) keep(left.length > 0 ? { old, readings: left } : undefined);
          }}
          onTake={(readings) => {
            setPasted(undefined);
            keep(undefined);
            onAdd(readings, where());
          }}
        />
      )}
    </div>
  );
});

import { forwardRef, useCallback, useEffect, useImperativeHandle, useRef, useState } from "react";
import { api, ask, type S } from "../api/client";
import type { Draft } from "./useDraft";

export interface QuickLineHandle {
  focus: () => void;
}

/** QuickLine writes the next step as one line: it completes names, shows what the line becomes, and says what it does not understand. */
export const QuickLine = forwardRef<
  QuickLineHandle,
  {
    revision: number;
    draft: Draft;
    after?: string;
    phase?: string;
    number: number;
    onAdd: (steps: S["Step"][]) => void;
    onLeave: () => void;
  }
>(function QuickLine({ revision, draft, after, phase, number, onAdd, onLeave }, ref) {
  const [text, setText] = useState("");
  const [answer, setAnswer] = useState<{ line: string; reading?: S["Reading"]; completions: S["Completion"][] }>();
  const [pick, setPick] = useState(-1);
  const [focused, setFocused] = useState(false);
  const [pasted, setPasted] = useState<S["Reading"][]>();
  const input = useRef<HTMLInputElement>(null);
  useImperativeHandle(ref, () => ({ focus: () => input.current?.focus() }));
  const { look, unlook } = draft;
  const ask1 = useCallback(
    async (line: string) => {
      if (!line.trim()) {
        unlook();
        setAnswer(undefined);
        return;
      }
      const r = await look({ line, after: after ?? "" });
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
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again only when the place changes
  useEffect(() => {
    if (text && focused) ask1(text);
  }, [after]);
  const add = async () => {
    const line = text.trim();
    if (!line) return;
    const r = answer?.line === text ? answer.reading : undefined;
    const reading =
      r ??
      (await ask(api.POST("/api/revisions/{revision}/read", { params: { path: { revision } }, body: { text: line, phase } }))
        .then((l) => l[0])
        .catch(() => undefined));
    setText("");
    setAnswer(undefined);
    onAdd([
      reading
        ? reading.step
        : ({ id: "line", phase: phase ?? "prepare", verb: "do", text: line, unread: true } as unknown as S["Step"]),
    ]);
  };
  const offered = answer?.completions ?? [];
  const take = (c: S["Completion"]) => {
    type(`${c.line.trimEnd()} `);
    input.current?.focus();
  };
  const problem = answer?.reading?.problem;
  // While a word can still be completed, nothing is wrong with it yet.
  const told = answer?.reading && !(problem && offered.length > 0 && answer.reading.near.length === 0);
  const open = focused && text !== "" && (offered.length > 0 || !!told);
  return (
    <div className="relative flex-none border-t border-ink bg-(--white)">
      {open && (
        <div
          className="float absolute right-3 bottom-[40px] left-[76px] z-20 overflow-hidden"
          id="quick-offers"
          role="listbox"
          aria-label="Ways to go on"
        >
          {offered.map((c, i) => (
            <div
              key={c.line}
              role="option"
              tabIndex={-1}
              aria-selected={i === pick}
              onMouseDown={(e) => {
                e.preventDefault();
                take(c);
              }}
              className="flex cursor-default gap-3 px-3 py-1 hover:bg-film aria-selected:bg-marking-wash"
            >
              <span className="min-w-0 flex-1 truncate font-mono text-[12px]">
                <span className="text-ink-3">{c.line.slice(0, Math.max(0, c.line.trimEnd().length - c.label.length))}</span>
                {c.label}
              </span>
              <span className="max-w-[45%] truncate text-[11.5px] text-ink-2">{c.hint}</span>
            </div>
          ))}
          {told && answer?.reading && (
            <div className={`border-t border-rule px-3 py-1.5 ${problem ? "bg-paint-wash" : "bg-held-wash"}`}>
              {problem ? (
                <>
                  <span className="font-[650]">Stays free text:</span> {problem}.
                  {answer.reading.near.map((n) => (
                    <button
                      type="button"
                      key={n}
                      className="button ml-2 !min-h-[22px]"
                      onMouseDown={(e) => {
                        e.preventDefault();
                        type(n);
                      }}
                    >
                      {n}
                    </button>
                  ))}
                </>
              ) : (
                <>
                  <span className="font-[650] text-held">✓</span> {answer.reading.sentence}
                </>
              )}
            </div>
          )}
        </div>
      )}
      <div className="flex h-[38px] items-center gap-2 px-3">
        <label htmlFor="quick" className="whitespace-nowrap text-[12px] text-ink-2">
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
          placeholder="turn crank 2 turns clockwise, stop short"
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
            setPasted(
              await ask(
                api.POST("/api/revisions/{revision}/read", { params: { path: { revision } }, body: { text: page, phase } }),
              ).catch(() => undefined),
            );
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
          className="min-w-0 flex-1 bg-transparent font-mono text-[12.5px] outline-none placeholder:text-ink-3"
        />
        <span className="key">Enter</span>
        <span className="whitespace-nowrap text-[12px] text-ink-2">
          {number > 0 ? `adds after ${number}` : "adds the first step"}
        </span>
      </div>
      {pasted && (
        <div
          className="float absolute right-3 bottom-[42px] left-3 z-30 max-h-[60vh] overflow-auto p-3"
          role="dialog"
          aria-label="Pasted page"
        >
          <h2 className="text-[14px]">
            {pasted.length} lines, {pasted.filter((p) => !p.problem).length} understood
          </h2>
          <ol className="my-2">
            {pasted.map((p, i) => (
              <li key={i} className="flex gap-2 border-b border-rule py-1">
                <span className={p.problem ? "text-ink-2" : "text-held"}>{p.problem ? "△" : "✓"}</span>
                <span>
                  {p.sentence}
                  {p.problem && <span className="text-ink-2"> Stays free text: {p.problem}.</span>}
                </span>
              </li>
            ))}
          </ol>
          <div className="flex justify-end gap-2">
            <button type="button" className="button quiet" onClick={() => setPasted(undefined)}>
              Cancel
            </button>
            <button
              type="button"
              className="button solid"
              onClick={() => {
                onAdd(pasted.map((p) => p.step));
                setPasted(undefined);
              }}
            >
              Add {pasted.length} steps
            </button>
          </div>
        </div>
      )}
    </div>
  );
});

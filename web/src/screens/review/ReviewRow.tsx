import type { ReactNode } from "react";
import type { S } from "../../api/client";
import { Worded } from "../../shell/Worded";
import { Change } from "./Beside";
import { folded, type Line, type Row, readWord, weighs } from "./rows";

/** ReviewRow is one line of a review: what it says, what of it changed and how much that weighs, and whether it is read. */
export function ReviewRow({
  line,
  on,
  unread,
  reads,
  data,
  others,
  onMeet,
  onOpen,
  onRead,
  children,
}: {
  line: Line;
  on: boolean;
  unread: Map<string, S["UnreadStep"]>;
  reads: boolean;
  data: S["Redlined"];
  others: Record<string, { name: string; step: string }>;
  onMeet: () => void;
  onOpen: () => void;
  onRead: () => void;
  children: ReactNode;
}) {
  if (line.is === "fold") {
    const n = line.rows.length;
    return (
      // biome-ignore lint/a11y/useKeyWithClickEvents: folds are walked with J and K and opened with Enter
      <li
        data-line={line.key}
        data-on={on}
        {...folded(line)}
        tabIndex={-1}
        onClick={onMeet}
        className="review-row flex items-baseline gap-3 border-b border-rule bg-film px-3 py-1 text-small text-ink-2"
      >
        <button type="button" className="text-left hover:underline" onClick={onOpen}>
          {n} step{n === 1 ? "" : "s"} as {n === 1 ? "it was" : "they were"}
        </button>
        {reads && (
          <span className={`ml-auto ${line.unread.length ? "font-semibold text-marking" : ""}`}>
            {line.unread.length === 0 ? "read" : line.unread.length === n ? "not read yet" : `${line.unread.length} not read yet`}
          </span>
        )}
        {children}
      </li>
    );
  }
  const said = data.remarks.filter((m) => (m.step ?? "") === line.key && m.place !== "phase" && m.place !== "drawing");
  const open = said.filter((m) => m.state === "open").length;
  const left = unread.get(line.key);
  const state = readWord(left, reads);
  const who = Object.values(others).filter((o) => o.step !== "" && o.step === line.key);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the lines are walked with J and K, see the key map
    <li
      data-line={line.key}
      data-on={on}
      {...folded(line)}
      data-kind={line.is === "step" ? line.row.kind : "head"}
      tabIndex={-1}
      onClick={onMeet}
      className="review-row border-b border-rule px-3 py-1.5"
    >
      <div className="review-line" data-mid>
        <span className="text-ink-2">
          {line.is === "head"
            ? ""
            : line.row.was && line.row.now && line.row.was !== line.row.now
              ? `${line.row.was} → ${line.row.now}`
              : (line.row.now ?? line.row.was)}
        </span>
        <span>
          {line.is === "head" ? (
            <>
              <b className="font-[650]">Title and preparation</b>
              {data.head.map((h) => {
                const part = data.redline.header.find((p) => p.what === h.what);
                return part ? <Change key={h.what} part={part} /> : <Stands key={h.what} said={h} />;
              })}
              {data.redline.header
                .filter((p) => !data.head.some((h) => h.what === p.what))
                .map((p) => (
                  <Change key={p.what} part={p} />
                ))}
            </>
          ) : (
            <>
              {!line.row.parts?.some((p) => p.what === "caution") &&
                line.row.cautions?.map((c) => (
                  <span key={c} className="mb-0.5 block text-small">
                    <span aria-hidden className="mr-1 text-paint-edge">
                      ▲
                    </span>
                    {c}
                  </span>
                ))}
              <Sentence row={line.row} />
              {line.row.free?.map((f) => (
                <span key={f} className="free-text">
                  {f}
                </span>
              ))}
              {(line.row.parts ?? [])
                .filter(
                  (p) =>
                    p.what !== "step" &&
                    !(p.what === "what it does" && line.row.words) &&
                    !(p.what === "wording" && line.row.words),
                )
                .map((p) => (
                  <Change key={p.what} part={p} />
                ))}
              {line.row.beside
                ?.filter((b) => !line.row.parts?.some((p) => p.what === b.what))
                .map((b) => (
                  <Stands key={b.what + b.text} said={b} />
                ))}
            </>
          )}
          {(said.length > 0 || who.length > 0) && (
            <span className="block text-small text-ink-2">
              {said.length > 0 && (
                <span className={open ? "font-semibold text-marking" : ""}>
                  {said.length} remark{said.length === 1 ? "" : "s"}
                  {open > 0 ? `, ${open} open` : ", settled"}
                </span>
              )}
              {who.map((o) => (
                <span key={o.name} className="ml-2">
                  {o.name} is here
                </span>
              ))}
            </span>
          )}
        </span>
        <span className="text-small font-[650] max-md:text-right" data-weight={line.is === "step" ? weighs(line.row) : ""}>
          {line.is === "step" && line.row.kind !== "same" ? weighs(line.row) : ""}
        </span>
        <span
          className={`text-right text-small ${state === "read" || state === "" ? "text-ink-2" : "font-semibold text-marking"}`}
        >
          {state || (line.is === "step" && line.row.kind === "same" ? "as it was" : "")}
        </span>
      </div>
      {on && reads && <Asks left={left} onRead={onRead} />}
      {children}
    </li>
  );
}

/** Asks says what a thing asks before it counts as read, and is the button for those without keys. */
function Asks({ left, onRead }: { left: S["UnreadStep"] | undefined; onRead: () => void }) {
  return (
    <div className="review-asks">
      {!left ? (
        <span>Read as it stands now.</span>
      ) : left.own ? (
        <span>It counts once you say so: {left.own}.</span>
      ) : (
        <span>
          It counts once it has stood here for {Math.ceil(left.seconds ?? 0)} s.
          <span key={left.step} aria-hidden className="standing" style={{ animationDuration: `${left.seconds}s` }} />
        </span>
      )}
      <button
        type="button"
        className="button"
        onClick={(e) => {
          e.stopPropagation();
          onRead();
        }}
      >
        {left ? "Read" : "Not read"} <span className="key max-md:hidden pointer-coarse:hidden">R</span>
      </button>
    </div>
  );
}

/** Stands is one thing that stands on the page as it did. */
function Stands({ said }: { said: S["SaidOnPage"] }) {
  return (
    <span className="mt-0.5 block text-small">
      <span className="text-ink-2">{said.what}: </span>
      {said.text}
    </span>
  );
}

/** Sentence is the step with what went out struck through and what came in underlined. */
function Sentence({ row }: { row: Row }) {
  if (!row.now) return <del>{row.before}</del>;
  if (!row.was) return <ins>{row.after}</ins>;
  if (!row.words) return <>{row.after}</>;
  return (
    <>
      <Worded words={row.words} />
    </>
  );
}

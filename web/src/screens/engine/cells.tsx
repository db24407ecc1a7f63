import { useQuery } from "@tanstack/react-query";
import { Popover, Tooltip } from "radix-ui";
import { createContext, type KeyboardEvent, type ReactNode, useContext, useEffect, useId, useRef, useState } from "react";
import { sheetFields } from "../../api/queries";
import { brandNew, type Make, NewThing } from "./make";
import { figure, set, shownFigure } from "./sheet";
import { change, type SheetDraft } from "./useSheet";

/** RowName is what the cells of a row belong to, for those who hear them. */
export const RowName = createContext("");

/** useNamed is the name of a cell with that of its row: “Teeth, crank”. */
function useNamed(label: string) {
  const row = useContext(RowName);
  return row ? `${label}, ${row}` : label;
}

/** troubleAt is what the proof, or a refused save, says about one value. */
function troubleAt(draft: SheetDraft, path: string) {
  if (draft.refused?.path === path) return draft.refused.why;
  return draft.view.findings.find((f) => f.on === path && f.severity !== "look")?.what;
}

interface CellProps {
  draft: SheetDraft;
  path: string;
  label: string;
  width?: string;
  empty?: string;
}

/** Shell puts the value in red and says why where the sheet does not fit together; id is what the cell is described by. The cell stays the same element when its trouble comes and goes, so that the keyboard stays in it. */
function Shell({ trouble, id, children }: { trouble?: string; id: string; children: ReactNode }) {
  const [met, setMet] = useState(false);
  return (
    <span
      className={trouble ? "cell-bad" : undefined}
      onMouseEnter={() => setMet(true)}
      onMouseLeave={() => setMet(false)}
      onFocus={() => setMet(true)}
      onBlur={() => setMet(false)}
    >
      {children}
      {trouble && (
        <>
          <span id={id} className="sr-only">
            {trouble}
          </span>
          <Tooltip.Root open={met}>
            <Tooltip.Trigger asChild>
              <span aria-hidden className="inline-block h-0 w-0 align-bottom" />
            </Tooltip.Trigger>
            <Tooltip.Portal>
              <Tooltip.Content
                className="float z-50 max-w-[280px] px-3 py-1.5 text-small"
                side="bottom"
                align="start"
                sideOffset={4}
              >
                {trouble}
              </Tooltip.Content>
            </Tooltip.Portal>
          </Tooltip.Root>
        </>
      )}
    </span>
  );
}

/** TextCell is a value typed in place: Enter or leaving keeps it, Escape gives it up. */
function TextCell({
  draft,
  path,
  label,
  value,
  width,
  empty,
  mono,
  unit,
  wraps,
  read,
}: CellProps & {
  value: string;
  mono?: boolean;
  unit?: string;
  /** long words go on in the next line instead of being cut off */
  wraps?: boolean;
  read: (text: string) => { value?: unknown; wrong?: string };
}) {
  const [text, setText] = useState(value);
  const [wrong, setWrong] = useState<string>();
  const typing = useRef(false);
  // The version that what is typed goes by: what somebody else saves in the meantime is not written over.
  const begun = useRef(0);
  const named = useNamed(label);
  const why = useId();
  useEffect(() => {
    if (!typing.current && !wrong) setText(value);
  }, [value, wrong]);
  // What a save refused stays with its reason until it is mended, whatever else is saved.
  useEffect(() => {
    const at = draft.refused?.path ?? "";
    if (at === path || at.startsWith(`${path}/`)) setWrong(draft.refused?.why);
  }, [draft.refused, path]);
  const trouble = wrong ?? troubleAt(draft, path);
  if (!draft.view.meta.editable)
    return (
      <span className={mono ? "font-mono text-small" : undefined}>{value || <span className="text-ink-2">{empty}</span>}</span>
    );
  const Typing = wraps ? "textarea" : "input";
  const keep = () => {
    if (wrong && !typing.current) return; // refused as it is, and nobody has touched it since
    typing.current = false;
    if (text === value) return setWrong(undefined);
    const r = read(text);
    setWrong(r.wrong);
    if (!r.wrong) change(draft, path, r.value, begun.current || undefined);
  };
  return (
    <Shell trouble={trouble} id={why}>
      <Typing
        aria-label={named}
        aria-invalid={Boolean(trouble)}
        aria-describedby={trouble ? why : undefined}
        data-path={path}
        data-typing={typing.current || undefined}
        rows={wraps ? 1 : undefined}
        className={`cell ${mono ? "text-right font-mono text-small" : ""} ${mono && !width ? "whole-value" : ""}`}
        style={{ width }}
        value={text}
        placeholder={empty}
        onChange={(e: { target: { value: string } }) => {
          if (!typing.current) begun.current = draft.at();
          typing.current = true;
          setText(wraps ? e.target.value.replace(/\n/g, " ") : e.target.value);
        }}
        onBlur={keep}
        onKeyDown={(e: KeyboardEvent<HTMLElement>) => {
          if ((e.ctrlKey || e.metaKey) && (e.key.toLowerCase() === "k" || (e.key.toLowerCase() === "z" && !typing.current)))
            return;
          e.stopPropagation();
          if (e.key === "Enter") {
            e.preventDefault();
            keep();
          }
          if (e.key === "Escape") {
            typing.current = false;
            setText(value);
            setWrong(undefined);
            e.currentTarget.blur();
          }
        }}
      />
      {unit && typing.current && bare.test(text.trim()) && <span className="ml-1 font-mono text-fine text-ink-2">{unit}</span>}
    </Shell>
  );
}

/** bare is a number without its unit, which takes the unit of its place. */
const bare = /^\d+([.,]\d+)?$/;

/** WordCell takes words; reads turns them into what the sheet holds where that is not words, such as a list. */
export function WordCell(p: CellProps & { value?: string; needed?: boolean; reads?: (words: string) => unknown }) {
  return (
    <TextCell
      {...p}
      wraps={!p.needed}
      value={p.value ?? ""}
      read={(t) => {
        const words = t.trim();
        if (p.needed && !words) return { wrong: "It needs a name." };
        return { value: words && p.reads ? p.reads(words) : words || undefined };
      }}
    />
  );
}

/** NameCell is the first cell of a row: what the thing is called. */
export function NameCell({ draft, path, value, width }: { draft: SheetDraft; path: string; value: string; width?: number }) {
  return (
    <td className="name-cell font-[600]" style={width ? { minWidth: width } : undefined}>
      <WordCell draft={draft} path={`${path}/name`} label="Name" value={value} needed />
    </td>
  );
}

export function FigureCell(p: CellProps & { value?: number; whole?: boolean; least?: number; zero?: boolean }) {
  return (
    <TextCell
      {...p}
      mono
      width={p.width ?? "58px"}
      value={shownFigure(p.value)}
      read={(t) => {
        const n = figure(t);
        if (n === undefined) return p.zero ? { value: 0 } : { value: undefined };
        if (Number.isNaN(n)) return { wrong: `“${t}” is not a number.` };
        if (p.whole && !Number.isInteger(n)) return { wrong: "A whole number goes here." };
        if (p.least !== undefined && n < p.least) return { wrong: `At least ${p.least}.` };
        return { value: n };
      }}
    />
  );
}

/** QuantityCell takes a value with its unit, in any unit of the trade; the server reads it. */
export function QuantityCell(p: CellProps & { value?: string }) {
  const unit = p.draft.view.derived.units[p.path.replace(/^(\w+)\/[^/]+/, "$1/*")];
  return <TextCell {...p} mono unit={unit} value={p.value ?? ""} read={(t) => ({ value: t.trim() || undefined })} />;
}

/** FieldCell is a choice among the values that the server has for the value at its path. */
export function FieldCell({ without, ...p }: CellProps & { value?: string; none?: string; without?: string }) {
  const { data } = useQuery(sheetFields);
  const [list, , ...key] = p.path.includes("/") ? p.path.split("/") : ["", "", p.path];
  const field = data?.find((f) => f.list === list && f.key === key.join("/"));
  const choices = (field?.choices ?? []).filter((v) => v !== without);
  return <ChoiceCell {...p} choices={choices.map((v) => ({ value: v, name: field?.called?.[v] ?? v }))} />;
}

export function ChoiceCell({
  draft,
  path,
  label,
  value,
  choices,
  none,
  make,
}: CellProps & { value?: string; choices: { value: string; name: string }[]; none?: string; make?: Make }) {
  const trouble = troubleAt(draft, path);
  const named = useNamed(label);
  const why = useId();
  const [making, setMaking] = useState(false);
  const back = useRef(false);
  if (!draft.view.meta.editable) return <span>{choices.find((c) => c.value === value)?.name ?? value ?? none ?? ""}</span>;
  if (making && make)
    return (
      <NewThing
        draft={draft}
        make={make}
        onDone={(id, more) => {
          back.current = true;
          setMaking(false);
          if (id) draft.save([...more, set(path, id)]);
        }}
      />
    );
  return (
    <Shell trouble={trouble} id={why}>
      <select
        ref={(el) => {
          if (el && back.current) el.focus();
          back.current = false;
        }}
        aria-label={named}
        aria-invalid={Boolean(trouble)}
        aria-describedby={trouble ? why : undefined}
        data-path={path}
        className="cell"
        value={value ?? ""}
        onChange={(e) => (e.target.value === brandNew ? setMaking(true) : change(draft, path, e.target.value || undefined))}
        onKeyDown={(e) => !(e.ctrlKey || e.metaKey) && e.stopPropagation()}
      >
        {none !== undefined && <option value="">{none}</option>}
        {value && !choices.some((c) => c.value === value) && <option value={value}>{value}</option>}
        {choices.map((c) => (
          <option key={c.value} value={c.value}>
            {c.name}
          </option>
        ))}
        {make && <option value={brandNew}>a new {make.word}…</option>}
      </select>
    </Shell>
  );
}

export function TickCell({ draft, path, label, value }: CellProps & { value?: boolean }) {
  const named = useNamed(label);
  return (
    <input
      type="checkbox"
      aria-label={named}
      data-path={path}
      className="size-[15px] accent-(--color-marking)"
      checked={value ?? false}
      disabled={!draft.view.meta.editable}
      onChange={(e) => change(draft, path, e.target.checked || undefined)}
    />
  );
}

/** SetCell ticks things of a list: shafts a lock holds, bolts that clamp a wheel. */
export function SetCell({
  draft,
  path,
  label,
  value,
  choices,
  make,
}: CellProps & { value?: string[]; choices: { value: string; name: string }[]; make?: Make }) {
  const [open, setOpen] = useState(false);
  const named = useNamed(label);
  // Ticks follow the hand, not the server: two in quick succession both count.
  const told = (value ?? []).join(" ");
  const [have, setHave] = useState(value ?? []);
  const latest = useRef(have);
  // biome-ignore lint/correctness/useExhaustiveDependencies: told stands for value
  useEffect(() => {
    latest.current = value ?? [];
    setHave(value ?? []);
  }, [told]);
  const put = (next: string[]) => {
    latest.current = next;
    setHave(next);
    change(draft, path, next);
  };
  const text = have.map((v) => choices.find((c) => c.value === v)?.name ?? v).join(", ");
  if (!draft.view.meta.editable) return <span>{text}</span>;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="cell block w-full text-left" aria-label={`${named}: ${text || "none"}`} data-path={path}>
        {text || <span className="text-ink-2">none</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          className="float z-30 max-h-[260px] min-w-[170px] overflow-auto py-1"
          onKeyDown={(e) => e.stopPropagation()}
        >
          {choices.map((c) => (
            <label key={c.value} className="flex items-center gap-2 px-3 py-1 hover:bg-marking-wash">
              <input
                type="checkbox"
                className="accent-(--color-marking)"
                checked={have.includes(c.value)}
                onChange={(e) =>
                  put(e.target.checked ? [...latest.current, c.value] : latest.current.filter((v) => v !== c.value))
                }
              />
              {c.name}
            </label>
          ))}
          {choices.length === 0 && !make && <p className="px-3 text-ink-2">There is nothing to choose yet.</p>}
          {make && (
            <div className="border-t border-rule px-2 pt-1 first:border-0">
              <NewThing
                key={have.length}
                draft={draft}
                make={make}
                among={choices.length > 0}
                onDone={(id, edits) => {
                  if (id) draft.save([...edits, set(path, [...have, id])]);
                  else setOpen(false);
                }}
              />
            </div>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export const names = (items?: { id: string; name: string }[]) => (items ?? []).map((v) => ({ value: v.id, name: v.name }));
export const words = (...w: string[]) => w.map((v) => ({ value: v, name: v }));

/** listed reads words with commas between as a list. */
export const listed = (text: string) =>
  text
    .split(",")
    .map((o) => o.trim())
    .filter(Boolean);

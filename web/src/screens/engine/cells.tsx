import { Popover, Tooltip } from "radix-ui";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { figure, shownFigure } from "./sheet";
import { change, type SheetDraft } from "./useSheet";

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

/** Shell puts the value in red and says why where the sheet does not fit together. */
function Shell({ trouble, children }: { trouble?: string; children: ReactNode }) {
  if (!trouble) return <>{children}</>;
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>
        <span className="cell-bad">{children}</span>
      </Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content className="float z-50 max-w-[280px] px-3 py-1.5 text-small" sideOffset={4}>
          {trouble}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
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
  read,
}: CellProps & { value: string; mono?: boolean; unit?: string; read: (text: string) => { value?: unknown; wrong?: string } }) {
  const [text, setText] = useState(value);
  const [wrong, setWrong] = useState<string>();
  const typing = useRef(false);
  useEffect(() => {
    if (!typing.current) setText(value);
  }, [value]);
  const trouble = wrong ?? troubleAt(draft, path);
  if (!draft.view.meta.editable)
    return (
      <span className={mono ? "font-mono text-small" : undefined}>{value || <span className="text-ink-2">{empty}</span>}</span>
    );
  const keep = () => {
    typing.current = false;
    if (text === value) return setWrong(undefined);
    const r = read(text);
    setWrong(r.wrong);
    if (!r.wrong) change(draft, path, r.value);
  };
  return (
    <Shell trouble={trouble}>
      <input
        aria-label={label}
        aria-invalid={Boolean(trouble)}
        className={`cell ${mono ? "text-right font-mono text-small" : ""}`}
        style={{ width }}
        value={text}
        placeholder={empty}
        title={text.length > 18 ? text : undefined}
        onChange={(e) => {
          typing.current = true;
          setText(e.target.value);
        }}
        onBlur={keep}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") keep();
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

export function ChoiceCell({
  draft,
  path,
  label,
  value,
  choices,
  none,
}: CellProps & { value?: string; choices: { value: string; name: string }[]; none?: string }) {
  const trouble = troubleAt(draft, path);
  if (!draft.view.meta.editable) return <span>{choices.find((c) => c.value === value)?.name ?? value ?? none ?? ""}</span>;
  return (
    <Shell trouble={trouble}>
      <select
        aria-label={label}
        className="cell"
        value={value ?? ""}
        onChange={(e) => change(draft, path, e.target.value || undefined)}
        onKeyDown={(e) => e.stopPropagation()}
      >
        {none !== undefined && <option value="">{none}</option>}
        {value && !choices.some((c) => c.value === value) && <option value={value}>{value}</option>}
        {choices.map((c) => (
          <option key={c.value} value={c.value}>
            {c.name}
          </option>
        ))}
      </select>
    </Shell>
  );
}

export function TickCell({ draft, path, label, value }: CellProps & { value?: boolean }) {
  return (
    <input
      type="checkbox"
      aria-label={label}
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
}: CellProps & { value?: string[]; choices: { value: string; name: string }[] }) {
  const [open, setOpen] = useState(false);
  const have = value ?? [];
  const text = have.map((v) => choices.find((c) => c.value === v)?.name ?? v).join(", ");
  if (!draft.view.meta.editable) return <span>{text}</span>;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="cell block w-full truncate text-left" aria-label={`${label}: ${text || "none"}`} title={text}>
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
                onChange={(e) => change(draft, path, e.target.checked ? [...have, c.value] : have.filter((v) => v !== c.value))}
              />
              {c.name}
            </label>
          ))}
          {choices.length === 0 && <p className="px-3 text-ink-2">There is nothing to choose yet.</p>}
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

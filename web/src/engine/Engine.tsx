import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { Dialog, DropdownMenu, Tabs } from "radix-ui";
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, type Failure } from "../api/client";
import { useActions } from "../shell/actions";
import { Trouble, Waiting } from "../shell/Trouble";
import { say } from "../shell/toast";
import { DriveEditor, type Mode } from "./DriveEditor";
import { DriveTab } from "./DriveTab";
import { CasesTab, LimitsTab } from "./LimitsTab";
import { FastenersTab, MarksTab, PartsTab } from "./OtherTabs";
import { Release, Reproof } from "./Release";
import { type EngineView, fresh, type Loop, set } from "./sheet";
import { SheetFindings } from "./SheetFindings";
import { type SheetDraft, useSheet } from "./useSheet";

const tabs = [
  ["drive", "Drive"],
  ["marks", "Marks and locks"],
  ["fasteners", "Fasteners"],
  ["parts", "Parts"],
  ["limits", "Limits"],
  ["cases", "Applicability"],
] as const;

/** tabOf is the tab on which a place of the sheet is typed. */
function tabOf(on: string) {
  const list = on.split("/")[0];
  const at: Record<string, string> = {
    marks: "marks",
    locks: "marks",
    fasteners: "fasteners",
    parts: "parts",
    tools: "parts",
    varies: "cases",
    wheels: "drive",
    loops: "drive",
    shafts: "drive",
    gears: "drive",
  };
  return at[list] ?? "limits";
}

/** Engine is one engine sheet: the drawing and the tables beside it are the same thing, and both can be worked in. */
export function Engine() {
  const { code } = useParams({ from: "/inside/engines/$code" });
  const { sheet: number } = useSearch({ from: "/inside/engines/$code" });
  const { draft, error, refetch } = useSheet(code, number ?? 0);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!draft) return <Waiting />;
  return <Work key={`${code}/${draft.view.meta.number}`} draft={draft} />;
}

function Work({ draft }: { draft: SheetDraft }) {
  const { view } = draft;
  const { sheet, meta } = view;
  const [tab, setTab] = useState("drive");
  const [mode, setMode] = useState<Mode>({ do: "move" });
  const [selected, setSelected] = useState("");
  const [at, setAt] = useState(-1);
  const table = useRef<HTMLDivElement>(null);

  const select = useCallback((ref: string) => setSelected(ref), []);
  const go = useCallback((on: string) => {
    setTab(tabOf(on));
    const [list, id] = on.split("/");
    const ref = id ? `${list}/${id}` : "";
    setSelected(ref);
    requestAnimationFrame(() =>
      table.current?.querySelector(`[data-ref="${CSS.escape(ref)}"]`)?.scrollIntoView({ block: "nearest" }),
    );
  }, []);
  const mend = useCallback(
    (i: number, k = 0) => {
      const m = view.findings[i]?.mends[k];
      if (!m || !meta.editable) return;
      draft.save(m.edits);
      say(m.label);
    },
    [view.findings, meta.editable, draft],
  );

  /** leading a loop ends with a new belt or chain, or a new route for one there is */
  const lead = useCallback(() => {
    if (mode.do !== "route" || mode.stops.length < 2) return;
    if (mode.loop) draft.save([set(`loops/${mode.loop}/route`, mode.stops)]);
    else {
      const name = sheet.loops.length === 0 ? `timing ${mode.kind}` : `${mode.kind} ${sheet.loops.length + 1}`;
      const id = fresh(name, sheet.loops);
      const loop: Loop = { id, name, kind: mode.kind, pitch: mode.kind === "belt" ? 8 : 9.525, teeth: 100, route: mode.stops };
      if (mode.kind === "belt") loop.thickness = 1.4;
      draft.save([set(`loops/${id}`, loop)]);
      setSelected(`loops/${id}`);
    }
    setMode({ do: "move" });
  }, [mode, draft, sheet.loops]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && e.target.matches("input, textarea, select");
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !typing) {
        e.preventDefault();
        draft.undo(e.shiftKey);
      } else if (typing || e.ctrlKey || e.metaKey) return;
      else if (e.key === "Escape") setMode({ do: "move" });
      else if (e.key === "Enter" && mode.do === "route") {
        e.preventDefault();
        lead();
      } else if (e.key === "." && view.findings.length > 0) {
        const next = (at + 1) % view.findings.length;
        setAt(next);
        go(view.findings[next].on);
      } else if (e.key.toLowerCase() === "m" && at >= 0) mend(at);
      else if (e.key.toLowerCase() === "w" && meta.editable) setMode({ do: "wheel" });
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [draft, mode, lead, view.findings, at, go, mend, meta.editable]);

  useActions(
    useMemo(
      () => [
        ...tabs.map(([v, n]) => ({ name: `Show ${n.toLowerCase()}`, group: "Engine sheet", run: () => setTab(v) })),
        ...(meta.editable
          ? [
              { name: "Place a wheel", keys: "W", group: "Engine sheet", run: () => setMode({ do: "wheel" }) },
              { name: "Lead a belt", group: "Engine sheet", run: () => setMode({ do: "route", kind: "belt", stops: [] }) },
              { name: "Lead a chain", group: "Engine sheet", run: () => setMode({ do: "route", kind: "chain", stops: [] }) },
              { name: "Undo", keys: "Ctrl Z", group: "Engine sheet", run: () => draft.undo(false) },
              { name: "Redo", keys: "Ctrl Shift Z", group: "Engine sheet", run: () => draft.undo(true) },
            ]
          : []),
      ],
      [meta.editable, draft],
    ),
  );

  return (
    <main className="flex h-full flex-col">
      <Block draft={draft} />
      <Tabs.Root value={tab} onValueChange={setTab} className="flex min-h-0 flex-1 flex-col">
        <div className="flex flex-none items-end border-b border-rule bg-film px-3.5 pt-1">
          <Tabs.List aria-label="The sheet" className="flex">
            {tabs.map(([v, n]) => (
              <Tabs.Trigger
                key={v}
                value={v}
                className="tab whitespace-nowrap data-[state=active]:border-rule data-[state=active]:bg-sheet data-[state=active]:font-[650] data-[state=active]:text-ink"
              >
                {n}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <span className="ml-auto flex items-center gap-2 self-center text-[12.5px] whitespace-nowrap text-ink-2">
            <Saved draft={draft} />
            <a
              className="button quiet !min-h-[22px] no-underline"
              href={`/api/engines/${meta.code}/drawing?number=${meta.number}&labels=true`}
              download={`${meta.code}.svg`}
            >
              Drawing as SVG
            </a>
            <Release draft={draft} />
            <StartDraft draft={draft} />
          </span>
        </div>
        {meta.inUse > 0 && <Reproof code={meta.code} />}
        <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
          <div
            className={`flex min-h-[340px] min-w-0 flex-none flex-col bg-(--white) lg:border-r lg:border-rule ${tab === "drive" ? "wide lg:w-[41%]" : tab === "marks" ? "lg:w-[34%]" : "lg:w-[23%]"}`}
          >
            <Bar draft={draft} mode={mode} onMode={setMode} onLead={lead} selected={selected} />
            <div className="relative min-h-[220px] flex-1">
              <DriveEditor
                draft={draft}
                mode={mode}
                onMode={setMode}
                selected={selected}
                onSelect={select}
                marks={tab === "marks"}
              />
              {sheet.wheels.length === 0 && mode.do === "move" && (
                <div className="absolute inset-0 grid place-items-center">
                  <div className="max-w-[300px] text-center">
                    <p className="font-[650]">Start at the crank</p>
                    <p className="mt-1 text-ink-2">
                      Its wheel stands at x 0, y 0; everything else is placed from there, in millimetres, as the drawing shows it.
                    </p>
                    {meta.editable && (
                      <button type="button" className="button solid mt-3" onClick={() => setMode({ do: "wheel" })}>
                        Place the crank wheel
                      </button>
                    )}
                  </div>
                </div>
              )}
            </div>
            <SheetFindings draft={draft} at={at} onAt={setAt} onGo={go} onMend={mend} />
          </div>
          <div ref={table} className="scroller min-h-0 min-w-0 flex-1 overflow-auto px-4 pb-8">
            {tab === "drive" && <DriveTab draft={draft} selected={selected} onSelect={select} onMode={setMode} />}
            {tab === "marks" && <MarksTab draft={draft} selected={selected} onSelect={select} />}
            {tab === "fasteners" && <FastenersTab draft={draft} selected={selected} onSelect={select} />}
            {tab === "parts" && <PartsTab draft={draft} selected={selected} onSelect={select} />}
            {tab === "limits" && <LimitsTab draft={draft} selected={selected} onSelect={select} />}
            {tab === "cases" && <CasesTab draft={draft} selected={selected} onSelect={select} />}
          </div>
        </div>
      </Tabs.Root>
    </main>
  );
}

function Cell({ name, children, grow }: { name: string; children: ReactNode; grow?: boolean }) {
  return (
    <div className={`head-cell ${grow ? "min-w-[90px] flex-1" : ""} last:border-r-0`}>
      <div className="name">{name}</div>
      <div className="what">{children}</div>
    </div>
  );
}

/** Block is the title block of the sheet. */
function Block({ draft }: { draft: SheetDraft }) {
  const { sheet, meta, findings, derived } = draft.view;
  const navigate = useNavigate();
  const open = findings.filter((f) => f.severity === "should-fix").length;
  return (
    <div className="flex flex-none border-b border-ink bg-(--white)">
      <Cell name="Engine code">
        <h1 className="text-[14px]">{sheet.code}</h1>
      </Cell>
      <Cell name="Engine" grow>
        <span title={sheet.use}>
          {sheet.maker}, {sheet.cylinders} cylinder{sheet.cylinders === 1 ? "" : "s"}
          <span className="font-normal text-ink-2"> {sheet.use}</span>
        </span>
      </Cell>
      <Cell name="Sheet">
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            className="whitespace-nowrap hover:underline"
            aria-label={`Sheet ${meta.number}, ${meta.state}, other versions`}
          >
            {meta.number} <span className="font-normal text-ink-2">{meta.state}</span>{" "}
            <span className="text-[10px] text-ink-2">▾</span>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="float z-50 max-w-[380px] min-w-[220px] py-1" align="start">
              {meta.versions.map((v) => (
                <DropdownMenu.Item
                  key={v.number}
                  onSelect={() => navigate({ to: "/engines/$code", params: { code: meta.code }, search: { sheet: v.number } })}
                  className="cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-marking-wash"
                >
                  <b className="font-[650]">{v.number}</b> {v.state}{" "}
                  {v.number === meta.number && <span className="text-ink-2">(this one)</span>}
                  {v.reason && <span className="block text-[12px] text-ink-2">{v.reason}</span>}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </Cell>
      <Cell name="Years">
        {sheet.years.from}–{sheet.years.to || "now"}
      </Cell>
      <Cell name="Runs">{sheet.running}</Cell>
      <Cell name="Everything home every">
        {derived.cycle} turn{derived.cycle === 1 ? "" : "s"}
      </Cell>
      <Cell name="Procedures">
        <Link to="/procedures" className="no-underline hover:underline">
          {meta.procedures}
        </Link>
      </Cell>
      <Cell name="Keeps it out of use">
        <span className={meta.blocking || findings.some((f) => f.severity === "blocks") ? "text-clash" : "text-held"}>
          {findings.filter((f) => f.severity === "blocks").length || "nothing"}
          {open > 0 && <span className="font-normal text-ink-2">, {open} to fix</span>}
        </span>
      </Cell>
    </div>
  );
}

function Saved({ draft }: { draft: SheetDraft }) {
  const { meta } = draft.view;
  if (!meta.editable) return null;
  const at = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" }).format(new Date(meta.changedAt));
  return (
    <span role="status">
      {draft.saving === "offline"
        ? "The server does not answer; what you changed waits here"
        : draft.saving === "saving"
          ? "Saving…"
          : `Saved ${at}`}
    </span>
  );
}

/** StartDraft starts the next version, or goes to the one that is open. */
function StartDraft({ draft }: { draft: SheetDraft }) {
  const { meta } = draft.view;
  const navigate = useNavigate();
  const [reason, setReason] = useState("");
  const [trouble, setTrouble] = useState("");
  if (meta.state === "draft" || !meta.writes) return null;
  if (meta.draft)
    return (
      <button
        type="button"
        className="button !min-h-[22px]"
        onClick={() => navigate({ to: "/engines/$code", params: { code: meta.code }, search: {} })}
      >
        Go to draft {meta.draft}
      </button>
    );
  return (
    <Dialog.Root>
      <Dialog.Trigger className="button !min-h-[22px]">Change this sheet</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-[16px]">
            Start sheet {Math.max(...meta.versions.map((v) => v.number)) + 1} of {meta.code}
          </Dialog.Title>
          <p className="mt-1 text-ink-2">The sheet in use stays as it is until the draft is put into use.</p>
          <form
            className="mt-3"
            onSubmit={async (e) => {
              e.preventDefault();
              try {
                const v = await ask(
                  api.POST("/api/engines/{code}/draft", { params: { path: { code: meta.code } }, body: { reason } }),
                );
                draft.put(v as unknown as EngineView);
                navigate({ to: "/engines/$code", params: { code: meta.code }, search: {} });
              } catch (err) {
                setTrouble((err as Failure).message);
              }
            }}
          >
            <label>
              <span className="label">Why it changes</span>
              <input
                className="field"
                autoFocus
                value={reason}
                onChange={(e) => setReason(e.target.value)}
                placeholder="Engineering letter, drawing change, field note…"
              />
            </label>
            {trouble && (
              <p role="alert" className="mt-2 border-l-[3px] border-clash bg-clash-wash px-2 py-1 text-[12px]">
                {trouble}
              </p>
            )}
            <div className="mt-3 flex gap-2">
              <button type="submit" className="button solid">
                Start the draft
              </button>
              <Dialog.Close className="button quiet">Not now</Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Bar is the line over the drawing: what is being done, or what is selected. */
function Bar({
  draft,
  mode,
  onMode,
  onLead,
  selected,
}: {
  draft: SheetDraft;
  mode: Mode;
  onMode: (m: Mode) => void;
  onLead: () => void;
  selected: string;
}) {
  const { view } = draft;
  if (mode.do === "wheel")
    return (
      <p className="flex h-9 flex-none items-center gap-2 bg-marking-wash px-3 text-[12px]">
        Click where the wheel’s centre is.
        <button type="button" className="button quiet ml-auto !min-h-[22px]" onClick={() => onMode({ do: "move" })}>
          Leave it <span className="key">Esc</span>
        </button>
      </p>
    );
  if (mode.do === "route")
    return (
      <p className="flex h-9 flex-none items-center gap-2 bg-marking-wash px-3 text-[12px] whitespace-nowrap">
        <span className="truncate">
          Click the wheels as the {mode.kind} travels, from the driver on. Click the last again for its back.{" "}
          {mode.stops.length > 0 && `${mode.stops.length} so far.`}
        </span>
        <button type="button" className="button ml-auto !min-h-[22px]" disabled={mode.stops.length < 2} onClick={onLead}>
          That is the route <span className="key">Enter</span>
        </button>
        <button type="button" className="button quiet !min-h-[22px]" onClick={() => onMode({ do: "move" })}>
          Leave it
        </button>
      </p>
    );
  return (
    <p className="flex h-9 flex-none items-center px-3 text-[12px] text-ink-2">
      <span className="truncate">{saidOf(view, selected)}</span>
      {view.meta.editable && view.sheet.wheels.length > 0 && (
        <span className="ml-auto hidden pl-3 whitespace-nowrap min-[1180px]:[.wide_&]:inline">
          <span className="key">←</span> <span className="key">↑</span> 1 mm, <span className="key">Shift</span> 10,{" "}
          <span className="key">Alt</span> 0.1
        </span>
      )}
    </p>
  );
}

/** saidOf is the selected thing in a line. */
function saidOf(view: EngineView, selected: string) {
  const [list, id] = selected.split("/");
  if (list === "wheels") {
    const w = view.sheet.wheels.find((v) => v.id === id);
    if (!w) return "";
    const meets = view.derived.loops.flatMap((l) => l.wheels).find((v) => v.wheel === id);
    const minus = (n: number) => n.toFixed(1).replace("-", "−");
    return `${w.name}: x ${minus(w.x)}, y ${minus(w.y)} mm${meets ? `; the loop lies on ${meets.wrap.toFixed(0)}° of it` : ""}`;
  }
  if (list === "marks") {
    const m = view.sheet.marks?.find((v) => v.id === id);
    return m ? `${m.name}: pointer ${m.clock ?? 0}° from twelve o’clock` : "";
  }
  return `Seen from the ${view.sheet.view}`;
}

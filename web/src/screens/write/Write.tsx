import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, me as client, type S } from "../../api/client";
import { revision, verbs, whoAmI } from "../../api/queries";
import { Aside, savingText } from "../../drafts/Aside";
import { useActions } from "../../shell/actions";
import { useAddress, useAddressNote } from "../../shell/address";
import { KeyMap } from "../../shell/KeyMap";
import { mute } from "../../shell/keys";
import { hour } from "../../shell/rows";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useTitle } from "../../shell/useTitle";
import { aside } from "./aside";
import { Beside, useLate } from "./Beside";
import { ClashDialog, HeaderDialog, writeKeys } from "./Dialogs";
import { DraftMenu } from "./DraftMenu";
import { EmptyPage } from "./EmptyPage";
import { QuickLine, type QuickLineHandle } from "./QuickLine";
import { Rows } from "./Rows";
import { EngineNow, Findings, headsOf } from "./Side";
import { StepEditor } from "./StepEditor";
import { TouchBar } from "./TouchBar";
import { type Edit, useDraft } from "./useDraft";

export function Write() {
  const id = Number(useParams({ from: "/inside/revisions/$revision" }).revision);
  const { data, error, refetch } = useQuery(revision(id));
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  return <Writing key={id} id={id} first={data} />;
}

function Writing({ id, first }: { id: number; first: S["Revision"] }) {
  const draft = useDraft(id, first);
  useTitle(`${draft.meta.title}, ${draft.meta.engine}, revision ${draft.meta.number}`);
  const { data: catalogue } = useQuery(verbs);
  const { data: me } = useQuery(whoAmI);
  const navigate = useNavigate();
  // The step chosen stands in the address; until one is, the first is shown and a new one goes to the end of the page.
  const [step, setStep] = useAddress<string>("step", "");
  const [from, setFrom] = useAddressNote("from", "step");
  const chosen = step !== "";
  const selected = step || first.view.rows[0]?.step.id;
  const [opened, setOpened] = useState(false);
  const [finding, setFinding] = useState(-1);
  const [keys, setKeys] = useState(false);
  const [header, setHeader] = useState(false);
  const [playing, setPlaying] = useState(false);
  const quick = useRef<QuickLineHandle>(null);
  const { view, edit, look, unlook, undo, previewing } = draft;
  const rows = view.rows;
  const editable = draft.meta.editable;
  const phases = useMemo(() => Object.fromEntries(catalogue?.phases.map((p) => [p.id, p.name]) ?? []), [catalogue]);
  const selectedNow = useRef<string | undefined>(selected);
  const at = rows.findIndex((r) => r.step.id === selected);
  const ghost = rows.findIndex((r) => r.step.id === "line");
  const place = chosen ? at : rows.filter((r) => r.step.id !== "line").length - 1;

  const select = useCallback(
    (to: string | undefined) => {
      if (selectedNow.current !== to) setOpened(false);
      selectedNow.current = to;
      setStep(to ?? "");
    },
    [setStep],
  );
  const open = useCallback(
    (to: string) => {
      selectedNow.current = to;
      setStep(to);
      setOpened(true);
    },
    [setStep],
  );
  useEffect(() => {
    const t = setTimeout(
      () =>
        api
          .POST("/api/revisions/{revision}/here", { params: { path: { revision: id } }, body: { client, step: selected ?? "" } })
          .catch(() => undefined),
      250,
    );
    return () => clearTimeout(t);
  }, [id, selected]);
  useEffect(() => {
    if (rows.length && at < 0) setStep(rows[Math.min(lastAt.current, rows.length - 1)].step.id);
    if (at >= 0) lastAt.current = at;
  }, [at, rows, setStep]);
  const lastAt = useRef(0);

  const move = useCallback(
    (step: string, after: string, phase: string) => edit([{ op: "move", id: step, after, phase }]),
    [edit],
  );
  const shift = (by: 1 | -1) => {
    const r = rows[at];
    const next = rows[at + by];
    if (!r || !next) return;
    move(r.step.id, by > 0 ? next.step.id : (rows[at - 2]?.step.id ?? ""), next.step.phase);
  };
  const remove = () => {
    const r = rows[at];
    if (!r) return;
    const next = rows[at + 1] ?? rows[at - 1];
    edit([{ op: "remove", id: r.step.id }]);
    select(next?.step.id);
    say(`Step ${at + 1} is removed. Ctrl Z brings it back.`);
  };
  /** add makes steps of what was read, in one edit; a note or a caution goes to the step above it. */
  const add = (readings: S["Reading"][], from: string) => {
    const edits: Edit[] = [];
    let after = from;
    for (const r of readings) {
      const above = edits.find((e) => e.step?.id === after)?.step ?? rows.find((w) => w.step.id === after)?.step;
      if (r.aside && above) {
        const step = aside(above, r);
        const k = edits.findIndex((e) => e.step?.id === after);
        if (k >= 0) edits[k] = { ...edits[k], step };
        else edits.push({ op: "set", step });
        continue;
      }
      const fresh = { ...r.step, id: crypto.randomUUID().slice(0, 13) };
      edits.push({ op: "insert", after, step: fresh });
      after = fresh.id;
    }
    if (edits.length) edit(edits);
    select(after || undefined);
    return after;
  };
  const [found, setFound] = useState(0);
  const foundAt = (turns: number) => {
    setFound(turns);
    if (turns) look({ from: turns });
    else unlook();
  };
  const carAt = (car: number) => (car ? look({ car }) : unlook());
  const { post } = draft;
  // What was mended is not offered again before the page is proved anew: pressed twice, its mend would stand there twice.
  const [mended, setMended] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    if (post.waiting === 0) setMended((m) => (m.size > 0 ? new Set() : m));
  }, [post.waiting]);
  const openFindings = headsOf(view.findings).filter((f) => !mended.has(f.id));
  const mend = (f: S["Finding"], k: number) => {
    const m = f.mends[k];
    if (!m || !editable || mended.has(f.id)) return;
    setMended((was) => new Set(was).add(f.id));
    edit(m.edits);
    say(`${m.label}: done`);
    const target = m.edits[0]?.step?.id ?? m.edits[0]?.id ?? f.steps[0];
    if (target) select(target);
    setFinding(-1);
  };
  const keep = (f: S["Finding"], reason: string) => {
    const row = rows.find((r) => r.step.id === f.steps[0]);
    if (row)
      edit([
        {
          op: "set",
          step: { ...row.step, accept: [...(row.step.accept ?? []).filter((a) => a.rule !== f.rule), { rule: f.rule, reason }] },
        },
      ]);
  };
  const back = async (redo: boolean) => {
    const step = await undo(redo);
    if (step) {
      select(step);
      say(redo ? "Done again" : "Undone");
    }
  };
  const next = (by: number) => {
    if (!openFindings.length) return;
    const i = (finding + by + openFindings.length) % openFindings.length;
    setFinding(i);
    const s = openFindings[i].steps[0];
    if (s) select(s);
  };

  useEffect(() => {
    if (!playing) return;
    const t = setTimeout(
      () => {
        const n = rows[at + 1];
        if (n) select(n.step.id);
        else setPlaying(false);
      },
      rows[at]?.crosses ? 1150 : 420,
    );
    return () => clearTimeout(t);
  }, [playing, at, rows, select]);

  const onKey = useRef<(e: KeyboardEvent) => void>(() => undefined);
  onKey.current = (e) => {
    const t = e.target as HTMLElement;
    const ctrl = e.ctrlKey || e.metaKey;
    // In a field that has something in it, Ctrl Z is the field's own.
    if (ctrl && e.key.toLowerCase() === "z" && editable && !(t.closest?.("input, textarea") && (t as HTMLInputElement).value)) {
      e.preventDefault();
      (document.activeElement as HTMLElement)?.blur?.();
      back(e.shiftKey);
      return;
    }
    if (t.closest?.("input, textarea, select, [role=dialog], [role=menu]") || ctrl || mute(e)) return;
    const go = (i: number) => select(rows[Math.max(0, Math.min(rows.length - 1, i))]?.step.id);
    const onButton = t.closest?.("button, a");
    if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown") && editable) shift(e.key === "ArrowDown" ? 1 : -1);
    else if (e.key === "ArrowDown") go(at + 1);
    else if (e.key === "ArrowUp") go(at - 1);
    else if (e.key === "PageDown") go(at + 12);
    else if (e.key === "PageUp") go(at - 12);
    else if (e.key === "Home") go(0);
    else if (e.key === "End") go(rows.length - 1);
    else if (e.key === "Enter" && !onButton && editable && at >= 0) setOpened(true);
    else if (e.key === "Escape") setOpened(false);
    else if (e.key.toLowerCase() === "n" && editable) quick.current?.focus();
    else if (e.key === "Delete" && !onButton && editable) remove();
    else if (e.key === ".") next(1);
    else if (e.key === ",") next(-1);
    else if (e.key.toLowerCase() === "m" && editable) {
      if (openFindings[finding]) mend(openFindings[finding], 0);
    } else if (e.key === " " && !onButton) setPlaying((p) => !p);
    else if (e.key === "?") setKeys(true);
    else return;
    e.preventDefault();
  };
  useEffect(() => {
    const h = (e: KeyboardEvent) => onKey.current(e);
    window.addEventListener("keydown", h);
    return () => window.removeEventListener("keydown", h);
  }, []);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the actions follow the rows
  const actions = useMemo(
    () => [
      ...(editable
        ? [
            { name: "Write the next step", keys: "N", run: () => quick.current?.focus() },
            { name: "Title and preparation", run: () => setHeader(true) },
            { name: "Undo", keys: "Ctrl Z", run: () => back(false) },
            { name: "Redo", keys: "Ctrl Shift Z", run: () => back(true) },
          ]
        : []),
      { name: "Next finding", keys: ".", run: () => next(1) },
      { name: "Run the engine", keys: "Space", run: () => setPlaying(true) },
      { name: "Export as a latch file", run: () => window.location.assign(`/api/revisions/${id}/export`) },
      ...(me?.writes
        ? [
            {
              name: "Copy to another engine code",
              run: () => navigate({ to: "/revisions/$revision/copy", params: { revision: String(id) } }),
            },
          ]
        : []),
      { name: "Keys", keys: "?", run: () => setKeys(true) },
      ...rows.map((r, i) => ({
        name: `${i + 1}  ${r.spans.map((s) => s.text).join("")} ${r.value}`,
        group: "Steps",
        run: () => select(r.step.id),
      })),
    ],
    [rows, editable, finding, me],
  );
  useActions(actions);

  const stale = useLate(post.waiting > 0);
  const state = savingText(post.saving, post.waiting, draft.savedAt && hour(draft.savedAt), editable);
  const people = Object.values(draft.others);
  return (
    <main id="main" className="flex h-full flex-col">
      <TitleBlock
        meta={{ ...draft.meta, blocking: draft.previewing ? draft.meta.blocking : view.blocking }}
        onClose={draft.closeLatch}
        onRead={draft.reread}
        on="write"
        writes={!!me?.writes}
        right={
          <>
            {people.length > 0 && (
              <span className="text-held">Here too: {[...new Set(people.map((p) => p.name))].join(", ")}</span>
            )}
            {view.cars.length > 1 && (
              <fieldset className="flex items-center gap-1">
                <legend className="float-left mr-1 text-ink-2">Shown for</legend>
                {view.cars.map((name, k) => (
                  <button
                    key={name}
                    type="button"
                    className="button !min-h-[22px]"
                    aria-pressed={view.car === k}
                    data-on={view.car === k}
                    onClick={() => carAt(k)}
                  >
                    {name}
                  </button>
                ))}
              </fieldset>
            )}
            {editable && (
              <button type="button" className="button quiet !min-h-[22px]" onClick={() => setHeader(true)}>
                Title and preparation
              </button>
            )}
            <button type="button" className="button quiet !min-h-[22px]" aria-label="Keys" onClick={() => setKeys(true)}>
              Keys
            </button>
            <span
              role="status"
              data-saving={post.saving}
              className={post.saving === "offline" || post.saving === "out" ? "font-[650] text-clash" : ""}
            >
              {state}
            </span>
            <DraftMenu meta={draft.meta} writes={!!me?.writes} />
          </>
        }
      />
      <Aside parcels={post.aside} again={(b) => post.again(b, draft.saved.version)} drop={post.drop} />
      <div className="write-body flex min-h-0 flex-1">
        <section aria-label="Steps" className="flex min-h-0 min-w-0 flex-1 flex-col border-r border-rule">
          <Rows
            view={view}
            beside={draft.meta.beside}
            revision={draft.meta.id}
            spoken={draft.meta.spoken}
            selected={ghost >= 0 ? undefined : selected}
            from={from}
            onFrom={setFrom}
            opened={opened && editable}
            phases={phases}
            editable={editable}
            others={draft.others}
            onSelect={select}
            onOpen={open}
            onMove={move}
            empty={
              <EmptyPage
                editable={editable}
                examples={first.examples}
                onWrite={() => quick.current?.focus()}
                onHeader={() => setHeader(true)}
              />
            }
            editor={(r) => (
              <StepEditor
                key={r.step.id}
                step={r.step}
                stages={r.stages ?? ""}
                by={r.by ?? ""}
                when={r.when ?? ""}
                under={r.under}
                rows={rows}
                sentence={r.sentence}
                drawing={draft.drawing}
                chips={r.clashes.map((c) => (
                  <span key={c} className="clash-chip">
                    {draft.drawing.things.find((t) => t.kind === "lock" && t.id === c)?.name} is fitted
                  </span>
                ))}
                onRead={(line) =>
                  ask(
                    api.POST("/api/revisions/{revision}/read", {
                      params: { path: { revision: id } },
                      body: { text: line, phase: r.step.phase },
                    }),
                  )
                    .then((l) => l[0])
                    .catch(() => undefined)
                }
                onLook={(s) => look({ edits: [{ op: "set", step: s }] })}
                at={draft.at}
                onSave={(s, base) => edit([{ op: "set", step: s }], base)}
                onDone={() => {
                  unlook();
                  setOpened(false);
                }}
              />
            )}
          />
          {editable && rows.length > 0 && (
            <TouchBar
              met={ghost >= 0 ? 0 : at + 1}
              opened={opened}
              onOpen={() => setOpened(true)}
              onDone={() => {
                (document.activeElement as HTMLElement | null)?.blur();
                setOpened(false);
              }}
              onShift={shift}
              onRemove={remove}
              onBack={back}
            />
          )}
          {editable && (
            <QuickLine
              ref={quick}
              revision={id}
              draft={draft}
              after={place >= 0 ? rows[place].step.id : ""}
              phase={rows[place]?.step.phase}
              number={place + 1}
              example={first.examples[place >= 0 ? 3 : 0] ?? first.examples[0]}
              onAdd={add}
              onLeave={() => undefined}
            />
          )}
        </section>
        <Beside findings={openFindings.length} blocks={view.blocking} stale={stale}>
          <EngineNow draft={draft} at={ghost >= 0 ? ghost : at} playing={playing} onPlay={() => setPlaying(!playing)} />
          <Findings
            draft={draft}
            heads={openFindings}
            at={finding}
            onAt={setFinding}
            onGo={select}
            onMend={mend}
            onKeep={keep}
            from={previewing ? found : 0}
            onFrom={foundAt}
          />
        </Beside>
      </div>
      <ClashDialog draft={draft} />
      <KeyMap keys={writeKeys} open={keys} onOpenChange={setKeys} />
      <HeaderDialog draft={draft} open={header} onOpenChange={setHeader} />
    </main>
  );
}

import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { useMemo, useRef, useState } from "react";
import { api, ask, type S } from "../../api/client";
import { revision, verbs, whoAmI } from "../../api/queries";
import { Aside } from "../../drafts/Aside";
import { useActions } from "../../shell/actions";
import { KeyMap } from "../../shell/KeyMap";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";
import { Beside, useLate } from "./Beside";
import { ClashDialog, HeaderDialog, writeKeys } from "./Dialogs";
import { EmptyPage } from "./EmptyPage";
import { Head } from "./Head";
import { QuickLine, type QuickLineHandle } from "./QuickLine";
import { Rows } from "./Rows";
import { EngineNow, Findings } from "./Side";
import { StepEditor } from "./StepEditor";
import { TouchBar } from "./TouchBar";
import { useChosen, usePlaying } from "./useChosen";
import { type Draft, useDraft } from "./useDraft";
import { useFindings } from "./useFindings";
import { useSteps } from "./useSteps";
import { useWriteKeys } from "./useWriteKeys";

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
  const { view, unlook, post } = draft;
  const rows = view.rows;
  const editable = draft.meta.editable;
  const chosen = useChosen(id, first.view.rows[0]?.step.id, rows);
  const { at, ghost, place, opened, setOpened } = chosen;
  const steps = useSteps(draft, chosen);
  const found = useFindings(draft, chosen);
  const [playing, setPlaying] = usePlaying(rows, chosen);
  const [keys, setKeys] = useState(false);
  const [header, setHeader] = useState(false);
  const quick = useRef<QuickLineHandle>(null);
  const write = () => quick.current?.focus();
  const phases = useMemo(() => Object.fromEntries(catalogue?.phases.map((p) => [p.id, p.name]) ?? []), [catalogue]);
  useWriteKeys({ draft, chosen, steps, found, write, play: () => setPlaying((p) => !p), map: () => setKeys(true) });

  const navigate = useNavigate();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the actions follow the rows
  const actions = useMemo(
    () => [
      ...(editable
        ? [
            { name: "Write the next step", keys: "N", run: write },
            { name: "Bring an old page", run: () => quick.current?.bring() },
            { name: "Title and preparation", run: () => setHeader(true) },
            { name: "Undo", keys: "Ctrl Z", run: () => steps.back(false) },
            { name: "Redo", keys: "Ctrl Shift Z", run: () => steps.back(true) },
          ]
        : []),
      { name: "Next finding", keys: ".", run: () => found.next(1) },
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
        run: () => chosen.select(r.step.id),
      })),
    ],
    [rows, editable, found.at, me],
  );
  useActions(actions);
  const stale = useLate(post.waiting > 0);

  return (
    <main id="main" className="flex h-full flex-col">
      <Head draft={draft} me={me} onHeader={() => setHeader(true)} onKeys={() => setKeys(true)} />
      <Aside parcels={post.aside} again={(b) => post.again(b, draft.saved.version)} drop={post.drop} />
      <div className="write-body flex min-h-0 flex-1">
        <section aria-label="Steps" className="flex min-h-0 min-w-0 flex-1 flex-col border-r border-rule">
          <Rows
            view={view}
            beside={draft.meta.beside}
            revision={draft.meta.id}
            spoken={draft.meta.spoken}
            selected={ghost >= 0 ? undefined : chosen.selected}
            from={chosen.from}
            onFrom={chosen.setFrom}
            opened={opened && editable}
            phases={phases}
            editable={editable}
            others={draft.others}
            onSelect={chosen.select}
            onOpen={chosen.open}
            onMove={steps.move}
            empty={
              <EmptyPage
                editable={editable}
                examples={first.examples}
                onWrite={write}
                onBring={() => quick.current?.bring()}
                onHeader={() => setHeader(true)}
              />
            }
            editor={(r) => (
              <Editor
                key={r.step.id}
                id={id}
                draft={draft}
                row={r}
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
              onShift={steps.shift}
              onRemove={steps.remove}
              onBack={steps.back}
            />
          )}
          {editable && (
            <QuickLine
              ref={quick}
              revision={id}
              draft={draft}
              after={rows[place]?.step.id ?? ""}
              where={chosen.after}
              phase={rows[place]?.step.phase}
              number={place + 1}
              example={first.examples[place >= 0 ? 3 : 0] ?? first.examples[0]}
              onAdd={steps.add}
              onLeave={() => undefined}
            />
          )}
        </section>
        <Beside findings={found.heads.length} blocks={view.blocking} stale={stale}>
          <EngineNow draft={draft} at={ghost >= 0 ? ghost : at} playing={playing} onPlay={() => setPlaying(!playing)} />
          <Findings
            draft={draft}
            heads={found.heads}
            at={found.at}
            onAt={found.setAt}
            onGo={chosen.select}
            onMend={found.mend}
            onKeep={found.keep}
            from={found.from}
            onFrom={found.fromAt}
          />
        </Beside>
      </div>
      <ClashDialog draft={draft} />
      <KeyMap keys={writeKeys} open={keys} onOpenChange={setKeys} />
      <HeaderDialog draft={draft} open={header} onOpenChange={setHeader} />
    </main>
  );
}

/** Editor is the editor of a row: what it reads is read by the server, what it shows is tried on the page. */
function Editor({ id, draft, row, onDone }: { id: number; draft: Draft; row: S["Row"]; onDone: () => void }) {
  const read = (line: string) =>
    ask(
      api.POST("/api/revisions/{revision}/read", {
        params: { path: { revision: id } },
        body: { text: line, phase: row.step.phase },
      }),
    )
      .then((l) => l[0])
      .catch(() => undefined);
  return (
    <StepEditor
      revision={draft.meta.id}
      step={row.step}
      stages={row.stages ?? ""}
      by={row.by ?? ""}
      when={row.when ?? ""}
      under={row.under}
      rows={draft.view.rows}
      sentence={row.sentence}
      drawing={draft.drawing}
      chips={row.clashes.map((c) => (
        <span key={c} className="clash-chip">
          {draft.drawing.things.find((t) => t.kind === "lock" && t.id === c)?.name} is fitted
        </span>
      ))}
      onRead={read}
      onLook={(s) => draft.look({ edits: [{ op: "set", step: s }] })}
      at={draft.at}
      onSave={(s, base) => draft.edit([{ op: "set", step: s }], base)}
      onDone={onDone}
    />
  );
}

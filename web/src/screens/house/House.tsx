import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { useActions } from "../../shell/actions";
import { when } from "../../shell/rows";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useTitle } from "../../shell/useTitle";
import { Families } from "./Families";
import { Plan } from "./Plan";
import { Questions } from "./Questions";
import type { Rules } from "./rules";
import { usePlan } from "./usePlan";
import { Vague } from "./Vague";
import { Weights } from "./Weights";

/** House is what the house decides for itself: schools, limits, who signs, words, mistakes a page has to catch, and what each rule weighs. */
export function House() {
  const { data, error, refetch } = useQuery({ queryKey: ["house"], queryFn: () => ask(api.GET("/api/house")) });
  useTitle("House rules");
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  return <Screen h={data} />;
}

const sections = [
  ["schools", "Schools"],
  ["limits", "Limits"],
  ["signing", "Who signs"],
  ["words", "Words"],
  ["mistakes", "Mistakes to catch"],
  ["weights", "What rules weigh"],
] as const;

const to = (id: string) => document.querySelector(`.house #${id}`)?.scrollIntoView({ block: "start" });

function Screen({ h }: { h: S["HouseRules"] }) {
  const client = useQueryClient();
  const holds = h.rules as Rules;
  const me = client.getQueryData<S["Person"]>(["me"]);
  const plan = usePlan(h.version, holds, h.may ? (me?.id ?? 0) : 0);
  const rules = plan.rules;
  const may = h.may;
  const asked = useDeferredValue(rules);
  const { data: changes, error: refused } = useQuery({
    queryKey: ["house", "changes", h.version, asked],
    queryFn: () => ask(api.POST("/api/house/changes", { body: { rules: asked } })),
    enabled: plan.changed,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
    placeholderData: (was) => was,
  });
  const set = (name: string, v: unknown) => may && plan.change({ ...rules, [name]: v });
  const file = useRef<HTMLInputElement>(null);
  const { undo } = plan;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (
        (e.ctrlKey || e.metaKey) &&
        e.key.toLowerCase() === "z" &&
        !(e.target as HTMLElement).closest("textarea, input:not([type=radio], [type=checkbox])")
      ) {
        e.preventDefault();
        undo();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo]);
  useActions(useMemo(() => sections.map(([id, name]) => ({ name: `House rules: ${name}`, run: () => to(id) })), []));
  const saved = (version: number) => {
    say(`House rules ${version} hold. Every page is held against them now.`);
    plan.drop(version, rules);
    client.invalidateQueries({ queryKey: ["house"] });
    for (const k of ["revision", "procedures", "desk", "drill"]) client.invalidateQueries({ queryKey: [k] });
  };
  const take = async (f: File | undefined) => {
    if (!f) return;
    try {
      const read = JSON.parse(await f.text());
      await ask(api.POST("/api/house/changes", { body: { rules: read } }));
      plan.change({ ...(h.ours as Rules), ...read });
      say(`${f.name} is taken over. Nothing holds before you save it.`);
    } catch (e) {
      say(`${f.name}: ${e instanceof SyntaxError ? "this is no file of house rules." : (e as Error).message}`);
    }
  };
  const last = h.versions[0];
  return (
    <main id="main" className="flex h-full flex-col">
      <div className="house-bar">
        <h1 className="text-lead">House rules</h1>
        <span className="min-w-0 flex-1 truncate text-ink-2" title={last?.why}>
          {last ? (
            <>
              Version {last.version}, {last.by}, {when(last.at)}: {last.why}
            </>
          ) : (
            "The program’s own: nobody has changed them"
          )}
        </span>
        <a className="button quiet slim no-underline" href="/api/house/file" title="For the command line, and for another house">
          As a file
        </a>
        {may && (
          <>
            <button type="button" className="button quiet slim" onClick={() => file.current?.click()}>
              From a file…
            </button>
            <input
              ref={file}
              type="file"
              accept=".json,application/json"
              hidden
              onChange={(e) => {
                take(e.target.files?.[0]);
                e.target.value = "";
              }}
            />
          </>
        )}
      </div>
      <div className="house">
        <div className="house-body scroller">
          <nav className="house-nav" aria-label="Parts of the house rules">
            {sections.map(([id, name]) => (
              <button key={id} type="button" className="button quiet slim" onClick={() => to(id)}>
                {name}
              </button>
            ))}
          </nav>
          {!may && <p className="mb-2 text-ink-2">A lead changes them. What they ask of your pages stands with each finding.</p>}
          <Section
            id="schools"
            name="Where practitioners disagree"
            says="One school for the whole house; the first of each is the program’s own."
          >
            <Questions all={h.questions.filter((q) => !q.team)} rules={rules} holds={holds} may={may} onSet={set} />
          </Section>
          <Section id="limits" name="Limits" says="Where an engine sheet says otherwise, the sheet goes first.">
            <Limits h={h} rules={rules} holds={holds} may={may} onSet={set} error={fieldOf(refused)} />
          </Section>
          <Section id="signing" name="Who signs">
            <Questions all={h.questions.filter((q) => q.team)} rules={rules} holds={holds} may={may} onSet={set} />
            <Switch
              name="authorMayEdit"
              says="One person may close the author and the editorial latch"
              why="In a team of two. Nobody else closes two latches on one revision."
              {...{ rules, holds, may, set }}
            />
            <Switch
              name="lastLatchReleases"
              says="The last latch releases"
              why="Where nobody else has to be asked. Otherwise a lead does."
              {...{ rules, holds, may, set }}
            />
          </Section>
          <Section
            id="words"
            name="Words that are not written"
            says="They leave an instruction to whoever reads it. Found in free text, notes and cautions."
          >
            <Vague words={rules.vague ?? []} suggested={h.suggested} may={may} onSet={(v) => set("vague", v)} />
          </Section>
          <Section
            id="mistakes"
            name="Mistakes a page has to catch"
            says="Occurrence and sizes are guesses of ours until your field notes say better. Of a kind with “at least”, what gets through counts as missed."
          >
            <Families all={h.families} rules={rules} holds={holds} may={may} onChange={plan.change} />
          </Section>
          <Section
            id="weights"
            name="What each rule weighs"
            says="What blocks keeps a page from its release. A rule that everybody accepts weighs too much."
          >
            <Weights all={h.weighed} rules={rules} holds={holds} may={may} onChange={plan.change} />
          </Section>
        </div>
        <aside className="house-side scroller" aria-label="What you changed, and the versions">
          {may && (
            <Plan
              h={h}
              rules={rules}
              over={plan.over}
              changed={plan.changed}
              changes={plan.changed ? changes : []}
              refused={refused?.message}
              onUndo={plan.undo}
              onDrop={() => plan.drop(h.version, holds)}
              onSaved={saved}
            />
          )}
          <Versions all={h.versions} trial={h.trial} />
        </aside>
      </div>
    </main>
  );
}

function fieldOf(e: Error | null): { name: string; says: string } | undefined {
  const field = ((e as Failure | null)?.body as { field?: string } | undefined)?.field;
  return field && e ? { name: field, says: e.message } : undefined;
}

function Section({ id, name, says, children }: { id: string; name: string; says?: string; children: ReactNode }) {
  return (
    <section id={id} className="house-section" aria-labelledby={`${id}-name`}>
      <h2 id={`${id}-name`} className="house-heading">
        {name}
      </h2>
      {says && <p className="mb-1.5 text-small text-ink-2">{says}</p>}
      {children}
    </section>
  );
}

interface Chosen {
  rules: Rules;
  holds: Rules;
  may: boolean;
}

function Limits({
  h,
  rules,
  holds,
  may,
  onSet,
  error,
}: Chosen & { h: S["HouseRules"]; onSet: (name: string, v: number) => void; error?: { name: string; says: string } }) {
  const ours = h.ours as Rules;
  return (
    <table className="house-table house-limits">
      <tbody>
        {h.limits.map((l) => {
          const own = rules[l.id] !== ours[l.id];
          return (
            <tr key={l.id} data-changed={rules[l.id] !== holds[l.id] || undefined}>
              <th scope="row">
                <label htmlFor={`limit-${l.id}`}>{l.says}</label>
              </th>
              <td className="w-[150px] whitespace-nowrap">
                <Amount id={`limit-${l.id}`} l={l} value={rules[l.id] as number} may={may} onSet={(v) => onSet(l.id, v)} />{" "}
                {l.unit}
              </td>
              <td className="text-small text-ink-2">
                {error?.name === l.id ? <span className="text-clash">{error.says}</span> : l.why}
                {own && ` Ours is ${ours[l.id]}.`}
                {rules[l.id] !== holds[l.id] && ` It is ${holds[l.id]} now.`}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Amount is a number as it is typed; it counts once it is one. */
function Amount({
  id,
  l,
  value,
  may,
  onSet,
}: {
  id: string;
  l: S["HouseLimit"];
  value: number;
  may: boolean;
  onSet: (v: number) => void;
}) {
  const [text, setText] = useState<string>();
  return (
    <input
      id={id}
      className="field slim inline-block w-[62px] text-right font-mono"
      inputMode="decimal"
      disabled={!may}
      value={text ?? String(value)}
      aria-invalid={text !== undefined}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        const n = Number(text?.replace(",", "."));
        if (text?.trim() && Number.isFinite(n) && n !== value) {
          if (n < l.least || n > l.most || (l.whole && !Number.isInteger(n)))
            say(`${l.says}: ${l.whole ? "a whole number " : ""}from ${l.least} to ${l.most} ${l.unit}.`);
          else onSet(n);
        }
        setText(undefined);
      }}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

function Switch({
  name,
  says,
  why,
  rules,
  holds,
  may,
  set,
}: Chosen & { name: string; says: string; why: string; set: (name: string, v: boolean) => void }) {
  return (
    <label className="house-switch" data-changed={rules[name] !== holds[name] || undefined}>
      <input
        type="checkbox"
        className="tick"
        disabled={!may}
        checked={rules[name] === true}
        onChange={(e) => set(name, e.target.checked)}
      />
      <span>
        {says} <span className="block text-small text-ink-2">{why}</span>
      </span>
    </label>
  );
}

/** Versions are the rules that were saved, the newest first, and how far all pages are held against it. */
function Versions({ all, trial }: { all: S["HouseVersion"][]; trial?: number }) {
  const { data } = useQuery({
    queryKey: ["house", "trial", trial],
    queryFn: () => ask(api.GET("/api/house/trials/{trial}", { params: { path: { trial: trial ?? 0 } } })),
    enabled: !!trial,
    refetchInterval: (q) => (q.state.data?.state === "running" ? 1000 : false),
  });
  const worse = data?.rows.filter((r) => r.blocks > r.blocked || r.misses > r.missed).length ?? 0;
  return (
    <section className="mt-5">
      <h2 className="house-heading">Versions</h2>
      {data && (
        <p className="text-small text-ink-2" role="status">
          {data.state === "running"
            ? `Held against the newest: ${data.done} of ${data.total} pages.`
            : worse > 0
              ? `${worse} ${worse === 1 ? "page was" : "pages were"} doubted more by the newest; each stands on its author’s desk until it is changed.`
              : "The newest doubts no page more than the rules before it."}
        </p>
      )}
      {all.length === 0 && (
        <p className="text-small text-ink-2">None yet: the program’s own rules hold, and every page was proved with them.</p>
      )}
      <ol>
        {all.map((v) => (
          <li key={v.version} className="border-b border-rule py-1.5">
            <details>
              <summary className="cursor-default">
                <b className="font-[650]">{v.version}</b> {v.why}
                <span className="block text-small text-ink-2">
                  {v.by}, {when(v.at)}
                </span>
              </summary>
              <ul className="mt-1 text-small">
                {v.changes.map((c) => (
                  <li key={c}>{c}</li>
                ))}
              </ul>
              <a className="link text-small" href={`/api/house/file?version=${v.version}`}>
                As a file
              </a>
            </details>
          </li>
        ))}
      </ol>
    </section>
  );
}

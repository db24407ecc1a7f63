import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { Dialog } from "radix-ui";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { archetypes, pageOfCodes, whoAmI } from "../../api/queries";
import { Drive } from "../../drawing/Drive";
import { useActions } from "../../shell/actions";
import { useAddress } from "../../shell/address";
import { CodePick } from "../../shell/CodePick";
import { mute } from "../../shell/keys";
import { Blockers } from "../../shell/rows";
import { SortButton } from "../../shell/SortButton";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";

type Sort = "code" | "findings" | "changed";
const heads: [Sort | "", string, string?][] = [
  ["code", "Code"],
  ["", "Engine"],
  ["", "Drive"],
  ["", "Years"],
  ["changed", "Sheet"],
  ["findings", "Fits together"],
  ["", "Procedures", "num"],
];

/** Engines lists the codes, each with its sheet: what is in use, what is being drawn up, whether it fits together. */
export function Engines() {
  const [filter, setFilter] = useAddress<string>("q", "");
  const [sort, setSort] = useAddress<string>("sort", "code");
  const [down, setDown] = useAddress<boolean>("down", false);
  const asked = useDeferredValue(filter.trim());
  const order = (heads.some(([h]) => h === sort) ? sort : "code") as Sort;
  const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
    ...pageOfCodes({ filter: asked, sort: order, down }),
    placeholderData: keepPreviousData,
  });
  const { data: me } = useQuery(whoAmI);
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const [adding, setAdding] = useState(false);
  const list = useRef<HTMLTableSectionElement>(null);
  useTitle("Engines");
  const rows = useMemo(() => data?.pages.flatMap((p) => p.rows) ?? [], [data]);
  const total = data?.pages.at(-1)?.total ?? 0;
  const end = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const el = end.current;
    if (!el || !hasNextPage || isFetchingNextPage) return;
    const o = new IntersectionObserver((es) => es.some((e) => e.isIntersecting) && fetchNextPage(), { rootMargin: "600px" });
    o.observe(el);
    return () => o.disconnect();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  const walk = (to: number) => setAt(Math.max(0, Math.min(rows.length - 1, to)));
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (mute(e) || (e.target instanceof HTMLElement && e.target.matches("input, textarea, select"))) return;
      if (document.querySelector("[role=dialog]")) return;
      if (e.key === "ArrowDown" || e.key === "ArrowUp") {
        e.preventDefault();
        setAt((v) => Math.max(0, Math.min(rows.length - 1, v + (e.key === "ArrowDown" ? 1 : -1))));
      } else if (e.key === "Enter" && rows[at] && !(e.target instanceof HTMLElement && e.target.matches("a, button"))) {
        navigate({ to: "/engines/$code", params: { code: rows[at].code } });
      } else if (e.key.toLowerCase() === "n" && me?.writes && !e.ctrlKey && !e.metaKey) {
        e.preventDefault();
        setAdding(true);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [rows, at, me?.writes, navigate]);
  useEffect(() => {
    list.current?.querySelector('[data-on="true"]')?.scrollIntoView({ block: "nearest" });
  });
  useActions(
    useMemo(
      () => (me?.writes ? [{ name: "Start an engine code", keys: "N", group: "Engines", run: () => setAdding(true) }] : []),
      [me?.writes],
    ),
  );
  if (error && !data) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1120px] px-6 py-6 max-md:px-3">
        <div className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-2">
          <h1 className="text-title" aria-live="polite">
            {total.toLocaleString("en")} engine code{total === 1 ? "" : "s"}
            {asked && ", filtered"}
          </h1>
          {(total > 8 || filter) && (
            <input
              className="field max-w-[260px]"
              value={filter}
              aria-label="Filter the engine codes"
              placeholder="Filter by code, maker, use or drive"
              onChange={(e) => {
                setFilter(e.target.value);
                setAt(0);
              }}
              onKeyDown={(e) => {
                if (e.key === "ArrowDown") walk(at + 1);
                else if (e.key === "ArrowUp") walk(at - 1);
                else if (e.key === "Enter" && rows[at]) navigate({ to: "/engines/$code", params: { code: rows[at].code } });
                else if (e.key === "Escape") setFilter("");
                else return;
                e.preventDefault();
              }}
            />
          )}
          {me?.writes && (
            <button type="button" className="button ml-auto" onClick={() => setAdding(true)}>
              New engine code <span className="key">N</span>
            </button>
          )}
        </div>
        <div className="scroll-wide">
          <table className="list-table min-w-[820px]" aria-label="Engine codes">
            <thead>
              <tr>
                {heads.map(([by, name, num]) => (
                  <th
                    key={name}
                    scope="col"
                    className={num}
                    aria-sort={by && order === by ? (down ? "descending" : "ascending") : undefined}
                  >
                    {by && rows.length > 1 ? (
                      <SortButton
                        name={name}
                        by={by === "changed" ? "when it last changed" : undefined}
                        on={order === by}
                        down={down}
                        onSort={() => {
                          setSort(by);
                          setDown(order === by ? !down : by !== "code");
                          setAt(0);
                        }}
                      />
                    ) : (
                      name
                    )}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody ref={list}>
              {rows.map((e, i) => (
                <tr key={e.code} data-on={i === at} onFocus={() => setAt(i)}>
                  <th scope="row" className="whitespace-nowrap">
                    <Link to="/engines/$code" params={{ code: e.code }} className="row-link">
                      {e.code}
                    </Link>
                  </th>
                  <td className="w-full">
                    {e.trouble ? (
                      <span className="text-clash">{e.trouble}</span>
                    ) : (
                      <>
                        {e.maker}, {e.cylinders} cylinder{e.cylinders === 1 ? "" : "s"}
                        {e.use && <span className="text-ink-2">, {e.use}</span>}
                      </>
                    )}
                  </td>
                  <td className="whitespace-nowrap text-ink-2">{e.drive}</td>
                  <td className="whitespace-nowrap">{e.years}</td>
                  <td className="whitespace-nowrap">
                    {e.inUse ? `${e.inUse} in use` : ""}
                    {e.draft > 0 && (
                      <span className="text-marking">
                        {e.inUse ? ", " : ""}draft {e.draft}
                      </span>
                    )}
                  </td>
                  <td className="whitespace-nowrap">
                    <Blockers blocking={e.blocking} findings={e.findings} />
                  </td>
                  <td className="num text-ink-2">{e.procedures}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <div ref={end} />
        {rows.length === 0 && asked && <p className="py-10 text-ink-2">No engine code fits. Clear the filter with Esc.</p>}
        {rows.length === 0 && !asked && (
          <div className="py-10 text-center">
            <p className="font-[650]">No engine code yet</p>
            <p className="mt-1 text-ink-2">
              A sheet describes one code: its wheels and belts, marks and locks, fasteners and limits. Procedures are written on
              it.
            </p>
            {me?.writes && (
              <button type="button" className="button solid mt-3" onClick={() => setAdding(true)}>
                Make an engine code
              </button>
            )}
          </div>
        )}
      </div>
      <NewEngine open={adding} onOpenChange={setAdding} />
    </main>
  );
}

function NewEngine({ open, onOpenChange }: { open: boolean; onOpenChange: (v: boolean) => void }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [code, setCode] = useState("");
  const [from, setFrom] = useState("");
  const { data: layouts } = useQuery({ ...archetypes, enabled: open });
  const copied = from.startsWith("copy:") ? from.slice(5) : undefined;
  const [trouble, setTrouble] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const go = (c: string) => {
    client.invalidateQueries({ queryKey: ["engines"] });
    onOpenChange(false);
    navigate({ to: "/engines/$code", params: { code: c } });
  };
  const start = async () => {
    setTrouble("");
    try {
      const r = await ask(
        api.POST("/api/engines", { body: { code, from: copied, archetype: copied ? undefined : from || undefined } }),
      );
      go(r.code);
    } catch (e) {
      setTrouble((e as Failure).message);
    }
  };
  const read = async (f: File) => {
    setTrouble("");
    try {
      const r = await ask(
        api.POST("/api/engines/import", {
          body: f as unknown as string,
          bodySerializer: (b) => b as unknown as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
      go(r.code);
    } catch (e) {
      setTrouble((e as Failure).message);
    }
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog !w-[min(820px,94vw)]" aria-describedby={undefined}>
          <Dialog.Title className="text-head">New engine code</Dialog.Title>
          <form
            className="mt-3 grid grid-cols-2 gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              start();
            }}
          >
            <label>
              <span className="label">Code</span>
              <input
                className="field"
                autoFocus
                value={code}
                onChange={(e) => setCode(e.target.value.toUpperCase())}
                placeholder="TQ4-18P"
                maxLength={20}
                aria-describedby={trouble ? "new-engine-trouble" : undefined}
                aria-invalid={!!trouble}
              />
            </label>
            <div>
              <label className="label" htmlFor="copy-of">
                A copy of
              </label>
              <CodePick
                id="copy-of"
                value={copied ?? ""}
                onChange={(c) => setFrom(c ? `copy:${c}` : "")}
                none="no other code"
                className="!w-full"
              />
            </div>
            {copied ? (
              <p className="col-span-2 text-small text-ink-2">
                Everything is copied but the sources: where a value comes from has to be said again for this code.
              </p>
            ) : (
              <fieldset className="col-span-2">
                <legend className="label">Starts from</legend>
                <div className="grid grid-cols-[repeat(auto-fill,minmax(176px,1fr))] gap-2">
                  <Layout id="" name="A blank page" says="Nothing but the crank" from={from} onFrom={setFrom} />
                  {layouts?.map((a) => (
                    <Layout key={a.id} {...a} from={from} onFrom={setFrom} />
                  ))}
                </div>
                <p className="mt-1.5 text-small text-ink-2">
                  A layout closes as it is drawn and is pulled into shape. Its measures are nobody’s: the sheet stays out of use
                  until it says where its own come from.
                </p>
              </fieldset>
            )}
            {trouble && (
              <p
                id="new-engine-trouble"
                role="alert"
                className="col-span-2 border-l-[3px] border-clash bg-clash-wash px-2 py-1 text-small"
              >
                {trouble}
              </p>
            )}
            <div className="dialog-foot col-span-2 flex gap-2">
              <button type="submit" className="button solid" disabled={!code}>
                Start the sheet
              </button>
              <button type="button" className="button" onClick={() => file.current?.click()}>
                Import a file…
              </button>
              <Dialog.Close className="button quiet">Cancel</Dialog.Close>
            </div>
          </form>
          <input
            ref={file}
            type="file"
            accept=".json,application/json"
            className="hidden"
            aria-label="Engine sheet or latch file"
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = "";
              if (f) read(f);
            }}
          />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Layout is one page to start from, as a picture that can be chosen. */
function Layout({
  id,
  name,
  says,
  drawing,
  from,
  onFrom,
}: {
  id: string;
  name: string;
  says: string;
  drawing?: S["Drawing"];
  from: string;
  onFrom: (id: string) => void;
}) {
  return (
    <label className="layout flex cursor-pointer flex-col rounded-[3px] border border-edge bg-(--white) p-2 has-checked:border-marking has-checked:bg-marking-wash has-checked:shadow-[inset_0_0_0_1px_var(--color-marking)]">
      <span className="flex items-baseline gap-1.5">
        <input type="radio" name="layout" value={id} checked={from === id} onChange={() => onFrom(id)} />
        <span className="font-[650]">{name}</span>
      </span>
      <span className="my-1.5 h-[116px]" aria-hidden>
        {drawing && <Drive drawing={drawing} labels={false} still className="h-full w-full" />}
      </span>
      <span className="text-fine leading-snug text-ink-2">{says}</span>
    </label>
  );
}

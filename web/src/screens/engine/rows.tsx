import { Plus, X } from "lucide-react";
import { type ReactNode, useContext, useEffect, useRef } from "react";
import { say } from "../../shell/toast";
import { RowName } from "./cells";
import { Details, Working } from "./Details";
import { type Sheet, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** TabProps is what every tab of the sheet gets. */
export interface TabProps {
  draft: SheetDraft;
  selected: string;
  onSelect: (ref: string) => void;
}

/** Rows is a table of things of the sheet; a row met is the thing selected. */
export function Rows({
  head,
  children,
  caption,
  add,
  none,
}: {
  head: (string | { name: string; num?: true; says?: string })[];
  children: ReactNode;
  caption: ReactNode;
  add?: ReactNode;
  /** what is said in place of the table where there is nothing for it */
  none?: ReactNode;
}) {
  return (
    <section className="mt-4 first:mt-3">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-body">{caption}</h2>
        {add}
      </div>
      {none ? (
        <p className="text-small text-ink-2">{none}</p>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what is wider than the screen is scrolled by the keyboard too
        <div
          className="scroll-wide"
          role="region"
          aria-label={typeof caption === "string" ? `${caption}, all columns` : "All columns"}
          tabIndex={0}
        >
          <table className="sheet-table">
            <thead>
              <tr>
                {head.map((h, i) => (
                  <th
                    key={i}
                    scope="col"
                    className={typeof h !== "string" && h.num ? "num" : undefined}
                    title={typeof h === "string" ? undefined : h.says}
                  >
                    {typeof h === "string" ? h || <span className="sr-only">Remove</span> : h.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>{children}</tbody>
          </table>
        </div>
      )}
    </section>
  );
}

/** wanted is the thing whose row takes the keyboard as soon as it is there. */
let wanted = "";

/** want lets the keyboard go on at a thing that was just made. */
export const want = (ref: string) => {
  wanted = ref;
};

/** useWanted takes the keyboard to the first field of a thing that was just made. */
export function useWanted(at: string) {
  const box = useRef<HTMLElement>(null);
  useEffect(() => {
    if (wanted !== at) return;
    wanted = "";
    const first = box.current?.querySelector<HTMLInputElement>("input, textarea, select");
    first?.focus();
    if (first?.matches("input, textarea")) first.select();
  }, [at]);
  return box;
}

export function Row({
  at,
  selected,
  onSelect,
  children,
}: {
  at: string;
  selected: string;
  onSelect: (ref: string) => void;
  children: ReactNode;
}) {
  const draft = useContext(Working);
  const [list, id] = at.split("/");
  const thing = (
    draft?.view.sheet[list as keyof Sheet] as { id: string; name?: string; number?: string; say?: string }[] | undefined
  )?.find((t) => t.id === id);
  const box = useWanted(at);
  return (
    <RowName.Provider value={thing?.number ?? thing?.name ?? thing?.say ?? ""}>
      <tr
        ref={box as React.Ref<HTMLTableRowElement>}
        data-on={selected === at}
        data-ref={at}
        onFocus={() => selected !== at && onSelect(at)}
        onClick={() => onSelect(at)}
      >
        {children}
      </tr>
      {selected === at && <Details at={at} />}
    </RowName.Provider>
  );
}

/** onward is where the keyboard goes when a row is removed: the same button of the next row, or of the one before, or what adds one. */
function onward(from: HTMLElement) {
  const rows = [...(from.closest("tbody")?.querySelectorAll<HTMLElement>("tr[data-ref]") ?? [])];
  const i = rows.indexOf(from.closest("tr") as HTMLElement);
  const row = rows[i + 1] ?? rows[i - 1];
  const to =
    row?.querySelector<HTMLElement>("[data-out]") ??
    from.closest("section")?.querySelector<HTMLElement>("[data-add]") ??
    undefined;
  to?.focus();
}

export function Out({ draft, path, name }: { draft: SheetDraft; path: string; name: string }) {
  if (!draft.view.meta.editable) return <td />;
  return (
    <td className="w-7 text-right">
      <button
        type="button"
        className="button quiet slim !px-1"
        aria-label={`Remove the ${name}`}
        data-out
        onClick={(e) => {
          e.stopPropagation();
          onward(e.currentTarget);
          draft.save([{ path }]);
          say(`The ${name} is removed. Ctrl Z brings it back.`);
        }}
      >
        <X size={13} aria-hidden />
      </button>
    </td>
  );
}

export function Add({ draft, children, onClick }: { draft: SheetDraft; children: ReactNode; onClick: () => void }) {
  if (!draft.view.meta.editable) return null;
  return (
    <button type="button" data-add className="button quiet slim" onClick={onClick}>
      <Plus size={12} aria-hidden /> {children}
    </button>
  );
}

/** add puts a new thing on a list of the sheet and selects it. */
export const add = (draft: SheetDraft, onSelect: (r: string) => void, list: string, id: string, value: object) => {
  draft.save([set(`${list}/${id}`, { id, ...value })]);
  want(`${list}/${id}`);
  onSelect(`${list}/${id}`);
};

import { Plus, X } from "lucide-react";
import type { ReactNode } from "react";
import { Details } from "./Details";
import { set } from "./sheet";
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
}: {
  head: (string | { name: string; num: true })[];
  children: ReactNode;
  caption: ReactNode;
  add?: ReactNode;
}) {
  return (
    <section className="mt-4 first:mt-3">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-body">{caption}</h2>
        {add}
      </div>
      <table className="sheet-table">
        <thead>
          <tr>
            {head.map((h, i) => (
              <th key={i} scope="col" className={typeof h === "string" ? undefined : "num"}>
                {typeof h === "string" ? h : h.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </section>
  );
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
  return (
    <>
      <tr data-on={selected === at} data-ref={at} onFocus={() => selected !== at && onSelect(at)} onClick={() => onSelect(at)}>
        {children}
      </tr>
      {selected === at && <Details at={at} />}
    </>
  );
}

export function Out({ draft, path, name }: { draft: SheetDraft; path: string; name: string }) {
  if (!draft.view.meta.editable) return <td />;
  return (
    <td className="w-7 text-right">
      <button
        type="button"
        className="button quiet !min-h-[22px] !px-1"
        aria-label={`Take out the ${name}`}
        onClick={(e) => {
          e.stopPropagation();
          draft.save([{ path }]);
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
    <button type="button" className="button quiet !min-h-[22px]" onClick={onClick}>
      <Plus size={12} aria-hidden /> {children}
    </button>
  );
}

/** add puts a new thing on a list of the sheet and selects it. */
export const add = (draft: SheetDraft, onSelect: (r: string) => void, list: string, id: string, value: object) => {
  draft.save([set(`${list}/${id}`, { id, ...value })]);
  onSelect(`${list}/${id}`);
};

import type { S } from "../../api/client";
import { savingText } from "../../drafts/Aside";
import { hour } from "../../shell/rows";
import { TitleBlock } from "../../shell/TitleBlock";
import { DraftMenu } from "./DraftMenu";
import type { Draft } from "./useDraft";

/** Head is the title of a page with who is here, which engine it is shown for, and whether it is saved. */
export function Head(props: { draft: Draft; me?: S["Person"] | null; onHeader: () => void; onKeys: () => void }) {
  const { draft, me } = props;
  const { view, post } = draft;
  const editable = draft.meta.editable;
  const people = Object.values(draft.others);
  const carAt = (car: number) => (car ? draft.look({ car }) : draft.unlook());
  return (
    <TitleBlock
      meta={{ ...draft.meta, blocking: draft.previewing ? draft.meta.blocking : view.blocking }}
      onClose={draft.closeLatch}
      onRead={draft.reread}
      on="write"
      writes={!!me?.writes}
      right={
        <>
          {people.length > 0 && <span className="text-held">Here too: {[...new Set(people.map((p) => p.name))].join(", ")}</span>}
          {view.cars.length > 1 && (
            <fieldset className="flex items-center gap-1">
              <legend className="float-left mr-1 text-ink-2">Shown for</legend>
              {view.cars.map((name, k) => (
                <button
                  key={name}
                  type="button"
                  className="button slim"
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
            <button type="button" className="button quiet slim" onClick={props.onHeader}>
              Title and preparation
            </button>
          )}
          <button type="button" className="button quiet slim" aria-label="Keys" onClick={props.onKeys}>
            Keys
          </button>
          <span
            role="status"
            data-saving={post.saving}
            className={post.saving === "offline" || post.saving === "out" ? "font-[650] text-clash" : ""}
          >
            {savingText(post.saving, post.waiting, draft.savedAt && hour(draft.savedAt), editable)}
          </span>
          <DraftMenu meta={draft.meta} writes={!!me?.writes} />
        </>
      }
    />
  );
}

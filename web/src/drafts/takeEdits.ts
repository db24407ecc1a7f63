import { api, ask, Failure, me, type S } from "../api/client";
import { fateOf } from "./outbox";

/** takeEdits saves edits of a revision from beside Write, over the version that is shown; it fails unless they are saved. */
export async function takeEdits(revision: number, base: number, edits: S["Mend"]["edits"]) {
  const r = await ask(
    api.POST("/api/revisions/{revision}/edits", {
      params: { path: { revision } },
      body: { batch: crypto.randomUUID(), client: me, base, edits },
    }),
  );
  if (fateOf(200, r) !== "saved") throw new Failure(0, "The server did not say that it was saved. Try again.");
}

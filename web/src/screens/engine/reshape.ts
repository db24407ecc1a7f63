import { api, ask, type S } from "../../api/client";
import { say } from "../../shell/toast";
import type { SheetDraft } from "./useSheet";

type How = S["ReshapeRequest"]["how"];

/** What is done to a whole drive at once, and what it is called. */
export const reshapes: [How, string, string][] = [
  ["mirror", "Mirror the drive", "Mirrored: left is right, and it runs the other way round. Ctrl Z brings it back."],
  ["turn view", "See it from the other end", "Seen from the other end: every way round on the sheet is the other one now."],
  ["balancer pair", "Add a balancer pair", "Two balance shafts are added below the crank, with marks to be filled."],
];

/** reshape asks for the edits that do it and saves them as one, so that one undo takes it back. */
export async function reshape(draft: SheetDraft, how: How) {
  try {
    const { code } = draft.view.meta;
    draft.save(await ask(api.POST("/api/engines/{code}/reshape", { params: { path: { code } }, body: { how } })));
    say(reshapes.find(([h]) => h === how)?.[2] ?? "");
  } catch (e) {
    say((e as Error).message);
  }
}

import type { S } from "../api/client";

type State = S["RevisionMeta"]["state"];

/** stateWord is what the state of a revision is called: one that is latched has been released. */
export const stateWord = (state: string) => (state === "latched" ? "released" : state);

/** isOpen tells whether a revision is still being worked on. */
export const isOpen = (state: State) => state === "draft" || state === "on review";

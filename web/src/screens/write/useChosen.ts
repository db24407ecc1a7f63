import { useCallback, useEffect, useRef, useState } from "react";
import { api, me as client, type S } from "../../api/client";
import { useAddress, useAddressNote } from "../../shell/address";

/**
 * useChosen is the step somebody is at, and whether its editor is open. The step chosen stands in the address; until one
 * is, the first is shown and a new one goes to the end of the page.
 */
export function useChosen(id: number, first: string | undefined, rows: S["Row"][]) {
  const [step, setStep] = useAddress<string>("step", "");
  const [from, setFrom] = useAddressNote("from", "step");
  const [opened, setOpened] = useState(false);
  const selected = step || first;
  // What was chosen since this was drawn: a line can leave the quick line before the one above it shows.
  const chosenNow = useRef(step);
  useEffect(() => {
    chosenNow.current = step;
  }, [step]);
  const lastAt = useRef(0);
  const at = rows.findIndex((r) => r.step.id === selected);
  /** ghost is the place of the line that is being typed, as the page would have it. */
  const ghost = rows.findIndex((r) => r.step.id === "line");
  const place = step !== "" ? at : rows.filter((r) => r.step.id !== "line").length - 1;

  /** after is the step the next line goes after, "" for the first of the page. */
  const after = () => (chosenNow.current !== step ? chosenNow.current : (rows[place]?.step.id ?? ""));
  const select = useCallback(
    (to: string | undefined) => {
      if ((chosenNow.current || first) !== to) setOpened(false);
      chosenNow.current = to ?? "";
      setStep(to ?? "");
    },
    [setStep, first],
  );
  const open = useCallback(
    (to: string) => {
      chosenNow.current = to;
      setStep(to);
      setOpened(true);
    },
    [setStep],
  );
  // Others see where one is once one rests there.
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
  // A step that is gone leaves its place to the one that stands there now.
  useEffect(() => {
    const own = rows.filter((r) => r.step.id !== "line");
    if (own.length && at < 0) setStep(own[Math.min(lastAt.current, own.length - 1)].step.id);
    if (at >= 0) lastAt.current = at;
  }, [at, rows, setStep]);
  return { selected, at, ghost, place, after, from, setFrom, opened, setOpened, select, open };
}

export type Chosen = ReturnType<typeof useChosen>;

/** usePlaying runs the engine from step to step, slower where something is crossed. */
export function usePlaying(rows: S["Row"][], { at, select }: Chosen) {
  const [playing, setPlaying] = useState(false);
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
  return [playing, setPlaying] as const;
}

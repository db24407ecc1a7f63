import { CodePick } from "./CodePick";

/** CodeField chooses one engine code, or any. */
export function CodeField({ code, onCode }: { code: string; onCode: (code: string) => void }) {
  return (
    <label>
      <span className="label">Code</span>
      <CodePick value={code} onChange={onCode} none="any" />
    </label>
  );
}

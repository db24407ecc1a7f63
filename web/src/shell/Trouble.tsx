import { Failure } from "../api/client";
import { useTitle } from "./useTitle";

/** Trouble is the page for something that could not be shown: what happened and what to do. */
export function Trouble({ error, again }: { error: unknown; again?: () => void }) {
  const f = error instanceof Failure ? error : undefined;
  const what =
    f?.status === 404 ? "Not here" : f?.status === 403 ? "Not for you" : f?.status === 0 ? "No answer" : "Something went wrong";
  useTitle(what);
  return (
    <main id="main" className="mx-auto max-w-[520px] px-6 py-16">
      <h1 className="text-title">{what}</h1>
      <p className="mt-2 text-lead text-ink-2">
        {f?.message ?? (error instanceof Error ? error.message : "The page could not be shown.")}
      </p>
      <div className="mt-4 flex gap-2">
        <button type="button" className="button solid" onClick={() => (again ? again() : window.location.reload())}>
          Try again
        </button>
        <a className="button no-underline" href="/procedures">
          Go to the procedures
        </a>
      </div>
    </main>
  );
}

export function Waiting() {
  return (
    <main id="main" className="px-6 py-10 text-ink-2" aria-busy>
      Reading…
    </main>
  );
}

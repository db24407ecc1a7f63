import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type FormEvent, useState, useSyncExternalStore } from "react";
import { api, ask, Failure, onUnauthorised, signedInAgain } from "../api/client";
import { whoAmI } from "../api/queries";

let out = false;
const ears = new Set<() => void>();
const ins = new Set<() => void>();

function set(v: boolean) {
  out = v;
  for (const e of ears) e();
}

onUnauthorised(() => set(true));

/** onSignIn calls f whenever somebody has signed in again. */
export function onSignIn(f: () => void) {
  ins.add(f);
  return () => void ins.delete(f);
}

/** signedIn lets everything go on that waited for a sign-in. */
export function signedIn() {
  signedInAgain();
  set(false);
  for (const f of ins) f();
}

/** SignedOut asks for the password again without leaving the page: what was typed stays where it is. */
export function SignedOut() {
  const open = useSyncExternalStore(
    (e) => {
      ears.add(e);
      return () => ears.delete(e);
    },
    () => out,
  );
  const { data: me } = useQuery({ ...whoAmI, enabled: false });
  const client = useQueryClient();
  const [trouble, setTrouble] = useState("");
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const password = String(new FormData(e.currentTarget).get("password"));
    setTrouble("");
    try {
      const now = await ask(api.POST("/api/session", { body: { email: me?.email ?? "", password } }), true);
      client.setQueryData(["me"], now);
      signedIn();
      client.invalidateQueries();
    } catch (err) {
      setTrouble(err instanceof Failure ? err.message : "Signing in did not work.");
    }
  };
  return (
    <Dialog.Root open={open && !!me}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content
          className="float dialog !w-[400px]"
          onEscapeKeyDown={(e) => e.preventDefault()}
          onKeyDown={(e) => e.stopPropagation()}
        >
          <Dialog.Title className="text-head">You are signed out</Dialog.Title>
          <Dialog.Description className="mt-1 text-ink-2">
            What you typed is kept in this browser. It goes out once you have signed in again.
          </Dialog.Description>
          <form onSubmit={submit} className="mt-3">
            <p className="label">{me?.email}</p>
            <label className="sr-only" htmlFor="again-password">
              Password
            </label>
            <input
              id="again-password"
              name="password"
              type="password"
              autoComplete="current-password"
              required
              autoFocus
              className="field"
              placeholder="Password"
            />
            {trouble && (
              <p role="alert" className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
                {trouble}
              </p>
            )}
            <div className="mt-4 flex justify-end gap-2">
              <a href="/sign-in" className="button quiet no-underline">
                Somebody else
              </a>
              <button type="submit" className="button solid">
                Sign in
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

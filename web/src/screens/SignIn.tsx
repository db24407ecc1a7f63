import { useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask, Failure } from "../api/client";

export function SignIn() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const { to } = useSearch({ from: "/sign-in" });
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    setBusy(true);
    setTrouble("");
    try {
      const me = await ask(
        api.POST("/api/session", { body: { email: String(f.get("email")), password: String(f.get("password")) } }),
      );
      client.clear();
      client.setQueryData(["me"], me);
      navigate({ href: to?.startsWith("/") && !to.startsWith("//") ? to : "/" });
    } catch (err) {
      setTrouble(err instanceof Failure ? err.message : "Signing in did not work.");
      setBusy(false);
    }
  };
  return (
    <main className="flex h-full">
      <div className="hidden w-[44%] flex-col justify-between bg-[#131c26] p-10 text-white md:flex">
        <div className="flex items-center gap-2 text-[17px] font-[650]">
          <img src="/mark.svg" alt="" width={18} height={18} /> Ink Latch
        </div>
        <DriveLine />
        <p className="max-w-[36ch] text-[15px] leading-snug text-[#c5ced5]">
          Every step runs on a virtual engine while you write it. A lock left in shows here, not on the bench.
        </p>
      </div>
      <form onSubmit={submit} className="m-auto w-[320px] p-4">
        <h1 className="mb-4 text-[20px]">Sign in</h1>
        <label className="label" htmlFor="email">
          E-mail address
        </label>
        <input id="email" name="email" type="email" autoComplete="username" required className="field mb-3" />
        <label className="label" htmlFor="password">
          Password
        </label>
        <input id="password" name="password" type="password" autoComplete="current-password" required className="field" />
        {trouble && (
          <p role="alert" className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
            {trouble}
          </p>
        )}
        <button type="submit" disabled={busy} className="button solid mt-4 !min-h-8 w-full justify-center">
          {busy ? "Signing in…" : "Sign in"}
        </button>
      </form>
    </main>
  );
}

/** DriveLine is a belt drive in one line, for the cover page. */
function DriveLine() {
  return (
    <svg viewBox="0 0 320 300" aria-hidden="true" className="w-full max-w-[380px]" fill="none" stroke="#f3f5f6">
      <path d="M64 62a56 56 0 0 1 56-50h86a56 56 0 0 1 52 78l-74 158a30 30 0 0 1-54 0L70 98a56 56 0 0 1-6-36z" strokeWidth="6" />
      <path
        d="M64 62a56 56 0 0 1 56-50h86a56 56 0 0 1 52 78l-74 158a30 30 0 0 1-54 0L70 98a56 56 0 0 1-6-36z"
        stroke="#131c26"
        strokeWidth="2"
        strokeDasharray="2 4"
      />
      <circle cx="118" cy="70" r="46" strokeWidth="1.4" />
      <circle cx="207" cy="70" r="46" strokeWidth="1.4" />
      <circle cx="157" cy="240" r="22" strokeWidth="1.4" />
      <path d="M118 24v12M207 24v12M157 218v10" stroke="#f0b90b" strokeWidth="5" />
      <path d="M0 150h320" stroke="#35424d" />
    </svg>
  );
}

import { useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask, Failure } from "../../api/client";
import { Cover } from "../../shell/Cover";
import { signedIn } from "../../shell/signedOut";
import { showTheme } from "../../shell/theme";
import { useTitle } from "../../shell/useTitle";

export function SignIn() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const { to } = useSearch({ from: "/sign-in" });
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const [email, setEmail] = useState("");
  const [sent, setSent] = useState("");
  const forgotten = async () => {
    setTrouble("");
    if (!email.includes("@")) {
      setTrouble("Type your e-mail address above first.");
      return;
    }
    try {
      await ask(api.PUT("/api/session", { body: { email } }), true);
      setSent(`If somebody has the address ${email.trim()}, a letter is on its way there. Its link works for two hours.`);
    } catch (err) {
      setTrouble(err instanceof Failure ? err.message : "That did not work.");
    }
  };
  useTitle("Sign in");
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    setBusy(true);
    setTrouble("");
    try {
      const me = await ask(
        api.POST("/api/session", { body: { email: String(f.get("email")), password: String(f.get("password")) } }),
        true,
      );
      client.clear();
      client.setQueryData(["me"], me);
      showTheme(me.theme);
      signedIn();
      navigate({ href: to?.startsWith("/") && !to.startsWith("//") ? to : "/" });
    } catch (err) {
      setTrouble(err instanceof Failure ? err.message : "Signing in did not work.");
      setBusy(false);
    }
  };
  return (
    <Cover name="Sign in">
      <form onSubmit={submit} className="md:w-[340px]">
        <label className="label" htmlFor="email">
          E-mail address
        </label>
        <input
          id="email"
          name="email"
          type="email"
          autoComplete="username"
          autoFocus
          required
          onChange={(e) => setEmail(e.target.value)}
          className="field mb-3"
        />
        <label className="label" htmlFor="password">
          Password
        </label>
        <input
          id="password"
          name="password"
          type="password"
          autoComplete="current-password"
          required
          aria-invalid={!!trouble}
          aria-describedby={trouble ? "sign-in-trouble" : undefined}
          className="field"
        />
        {trouble && (
          <p id="sign-in-trouble" role="alert" className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
            {trouble}
          </p>
        )}
        <button type="submit" disabled={busy} className="button solid mt-4 !min-h-8 w-full justify-center">
          {busy ? "Signing in…" : "Sign in"}
        </button>
        <button type="button" className="button quiet mt-2 w-full justify-center" onClick={forgotten}>
          Forgotten your password?
        </button>
        {sent && (
          <p role="status" className="mt-3 border-l-[3px] border-held bg-held-wash px-3 py-1.5">
            {sent}
          </p>
        )}
      </form>
    </Cover>
  );
}

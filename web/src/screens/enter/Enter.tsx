import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type FormEvent, useEffect, useState } from "react";
import { api, ask, Failure } from "../../api/client";
import { Cover } from "../../shell/Cover";
import { signedIn } from "../../shell/signedOut";
import { useTitle } from "../../shell/useTitle";

/** Enter is where a link leads: a password is chosen, and for the first administrator a name and an address. */
export function Enter() {
  const navigate = useNavigate();
  const client = useQueryClient();
  // The secret stays behind the #, which no browser sends to a server or a proxy's log.
  const [secret] = useState(() => window.location.hash.slice(1));
  const { data, error } = useQuery({
    queryKey: ["link", secret],
    queryFn: () => ask(api.POST("/api/enter/look", { body: { secret } })),
    enabled: secret !== "",
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  useTitle("Come in");
  const [trouble, setTrouble] = useState<{ field?: string; text: string }>();
  const [busy, setBusy] = useState(false);
  useEffect(() => window.history.replaceState(null, "", "/enter"), []);
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    const text = (k: string) => String(f.get(k) ?? "");
    if (text("password") !== text("repeat")) {
      setTrouble({ field: "repeat", text: "The two do not match." });
      return;
    }
    setBusy(true);
    setTrouble(undefined);
    try {
      const me = await ask(
        api.POST("/api/enter", { body: { secret, password: text("password"), name: text("name"), email: text("email") } }),
      );
      client.clear();
      client.setQueryData(["me"], me);
      signedIn();
      navigate({ to: me.administers && data?.kind === "setup" ? "/people" : "/" });
    } catch (err) {
      const b = err instanceof Failure ? (err.body as { field?: string } | undefined) : undefined;
      setTrouble({ field: b?.field, text: err instanceof Failure ? err.message : "That did not work." });
      setBusy(false);
    }
  };
  if (!secret || error)
    return (
      <Cover name="This link leads nowhere">
        <div className="md:w-[340px]">
          <p className="text-ink-2">
            {error instanceof Failure ? error.message : "Open the whole link, with everything after the #."}
          </p>
          <Link to="/sign-in" search={{ to: undefined }} className="button mt-4 no-underline">
            Sign in
          </Link>
        </div>
      </Cover>
    );
  if (!data) return <Cover name="Come in">{null}</Cover>;
  const first = data.kind === "setup";
  return (
    <Cover name={first ? "Set up the first administrator" : data.kind === "reset" ? "A new password" : `Welcome, ${data.name}`}>
      <form onSubmit={submit} className="md:w-[340px]">
        <p className="mb-4 text-ink-2">
          {first
            ? "You look after people: you add them, give them roles, and let them in again."
            : data.kind === "reset"
              ? `For ${data.email}. Wherever you are signed in now, you will be signed out.`
              : `Choose a password for ${data.email}.`}
        </p>
        {first ? (
          <>
            <Line name="name" label="Name" autoComplete="name" trouble={trouble} />
            <Line name="email" label="E-mail address" type="email" autoComplete="username" trouble={trouble} />
          </>
        ) : (
          <input type="hidden" name="username" autoComplete="username" value={data.email} readOnly />
        )}
        <NewPassword trouble={trouble} />
        {trouble && !["name", "email", "password", "repeat"].includes(trouble.field ?? "") && (
          <p role="alert" className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
            {trouble.text}
          </p>
        )}
        <button type="submit" disabled={busy} className="button solid mt-4 !min-h-8 w-full justify-center">
          {busy ? "One moment…" : "Go in"}
        </button>
      </form>
    </Cover>
  );
}

export interface Said {
  field?: string;
  text: string;
}

/** Line is a field with its label and, where there is one, its trouble. */
export function Line({
  name,
  label,
  type = "text",
  autoComplete,
  trouble,
  hint,
  value,
}: {
  name: string;
  label: string;
  type?: string;
  autoComplete?: string;
  trouble?: Said;
  hint?: string;
  value?: string;
}) {
  const bad = trouble?.field === name;
  return (
    <div className="mb-3">
      <label className="label" htmlFor={`line-${name}`}>
        {label}
      </label>
      <input
        id={`line-${name}`}
        name={name}
        type={type}
        autoComplete={autoComplete}
        defaultValue={value}
        required
        aria-invalid={bad}
        aria-describedby={bad ? `line-${name}-bad` : hint ? `line-${name}-hint` : undefined}
        className="field"
      />
      {hint && !bad && (
        <p id={`line-${name}-hint`} className="mt-1 text-small text-ink-2">
          {hint}
        </p>
      )}
      {bad && (
        <p id={`line-${name}-bad`} role="alert" className="mt-1 text-small font-[650] text-clash">
          {trouble?.text}
        </p>
      )}
    </div>
  );
}

/** NewPassword asks for a password twice. */
export function NewPassword({ trouble, label = "Password" }: { trouble?: Said; label?: string }) {
  return (
    <>
      <Line
        name="password"
        label={label}
        type="password"
        autoComplete="new-password"
        trouble={trouble}
        hint="At least 12 letters of any kind. A few plain words in a row do well."
      />
      <Line name="repeat" label="The same again" type="password" autoComplete="new-password" trouble={trouble} />
    </>
  );
}

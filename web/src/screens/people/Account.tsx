import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { places, whoAmI } from "../../api/queries";
import { useSingleKeys } from "../../shell/keys";
import { when } from "../../shell/rows";
import { Trouble, Waiting } from "../../shell/Trouble";
import { showTheme } from "../../shell/theme";
import { say } from "../../shell/toast";
import { useTitle } from "../../shell/useTitle";
import { Line, NewPassword, type Said } from "../enter/Enter";

/** Account is what somebody sets for themselves. */
export function Account() {
  const { data: me, error, refetch } = useQuery(whoAmI);
  useTitle("Name, password and sessions");
  if (error) return <Trouble error={error} again={refetch} />;
  if (!me) return <Waiting />;
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[860px] px-6 py-6">
        <h1 className="text-title">{me.name}</h1>
        <p className="text-ink-2">
          {me.email}, {me.roles.join(", ")}
        </p>
        <Own me={me} />
        <Password />
        <Places />
      </div>
    </main>
  );
}

function Part({ name, children }: { name: string; children: ReactNode }) {
  return (
    <section className="mt-6 grid gap-x-8 gap-y-2 border-t border-ink pt-2 md:grid-cols-[200px_minmax(0,1fr)]">
      <h2 className="text-body">{name}</h2>
      <div>{children}</div>
    </section>
  );
}

/** problemOf reads what a refusal says, and of which field. */
function problemOf(e: unknown): Said {
  const b = e instanceof Failure ? (e.body as { field?: string } | undefined) : undefined;
  return { field: b?.field, text: e instanceof Failure ? e.message : "That did not work." };
}

function Own({ me }: { me: S["Person"] }) {
  const client = useQueryClient();
  const [trouble, setTrouble] = useState<Said>();
  const [single, setSingle] = useSingleKeys();
  const change = async (body: S["Own"], done: string) => {
    setTrouble(undefined);
    try {
      const now = await ask(api.PATCH("/api/session", { body }));
      client.setQueryData(["me"], now);
      showTheme(now.theme);
      client.invalidateQueries({ queryKey: ["sheet"] });
      say(done);
    } catch (e) {
      setTrouble(problemOf(e));
    }
  };
  return (
    <>
      <Part name="Name">
        <form
          className="max-w-[340px]"
          onSubmit={(e) => {
            e.preventDefault();
            change({ name: String(new FormData(e.currentTarget).get("name")) }, "Your name is changed");
          }}
        >
          <Line name="name" label="As it stands on records and latches" value={me.name} trouble={trouble} />
          <button type="submit" className="button">
            Change the name
          </button>
        </form>
      </Part>
      <Part name="Reading">
        <Choice
          name="Torque tables show first"
          value={me.units}
          all={[
            ["metric", "N·m"],
            ["imperial", "lbf·ft"],
          ]}
          onChange={(units) => change({ units }, "Torque tables show this unit first")}
        />
        <Choice
          name="Theme"
          value={me.theme}
          all={[
            ["day", "Day"],
            ["bench", "Bench, dark"],
          ]}
          onChange={(theme) => change({ theme }, "The theme goes with you to every browser")}
        />
        <Choice
          name="Keys of a single letter or sign, in this browser"
          value={single ? "on" : "off"}
          all={[
            ["on", "Work"],
            ["off", "Switched off"],
          ]}
          onChange={(v) => setSingle(v === "on")}
        />
      </Part>
      <Part name="Absence and letters">
        <Absence me={me} trouble={trouble} onChange={change} />
        <Choice
          name="A letter of what waits for me, where this house sends letters"
          value={me.letters}
          all={[
            ["daily", "Once a day, in the morning"],
            ["never", "Never"],
          ]}
          onChange={(letters) =>
            change(
              { letters },
              letters === "daily" ? "A letter comes on days on which something waits" : "No more letters of what waits",
            )
          }
        />
      </Part>
    </>
  );
}

/** Absence is when somebody is away: nobody hands them a review then, and no letter comes. */
function Absence({
  me,
  trouble,
  onChange,
}: {
  me: S["Person"];
  trouble: Said | undefined;
  onChange: (body: S["Own"], done: string) => void;
}) {
  return (
    <form
      className="mb-3 max-w-[460px]"
      onSubmit={(e) => {
        e.preventDefault();
        const f = new FormData(e.currentTarget);
        onChange(
          { awayFrom: String(f.get("from")), awayUntil: String(f.get("until")) },
          f.get("until") ? "Others see that you are away" : "You are here",
        );
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <label>
          <span className="label">Away from</span>
          <input type="date" name="from" className="field" defaultValue={me.awayFrom} />
        </label>
        <label>
          <span className="label">until, the last day</span>
          <input type="date" name="until" className="field" defaultValue={me.awayUntil} key={me.awayUntil} />
        </label>
        <button type="submit" className="button">
          Set the absence
        </button>
        {me.awayUntil && (
          <button
            type="button"
            className="button quiet"
            onClick={() => onChange({ awayFrom: "", awayUntil: "" }, "You are here")}
          >
            I am back
          </button>
        )}
      </div>
      {trouble?.field?.startsWith("away") && (
        <p role="alert" className="mt-1 text-small text-clash">
          {trouble.text}
        </p>
      )}
    </form>
  );
}

function Choice({
  name,
  value,
  all,
  onChange,
}: {
  name: string;
  value: string;
  all: [string, string][];
  onChange: (v: string) => void;
}) {
  return (
    <fieldset className="mb-3">
      <legend className="label">{name}</legend>
      <span className="flex gap-5">
        {all.map(([v, says]) => (
          <label key={v} className="flex items-center gap-2">
            <input type="radio" name={name} checked={value === v} onChange={() => onChange(v)} />
            {says}
          </label>
        ))}
      </span>
    </fieldset>
  );
}

function Password() {
  const [trouble, setTrouble] = useState<Said>();
  const client = useQueryClient();
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = e.currentTarget;
    const f = new FormData(form);
    setTrouble(undefined);
    if (f.get("password") !== f.get("repeat")) {
      setTrouble({ field: "repeat", text: "The two do not match." });
      return;
    }
    try {
      await ask(api.POST("/api/session/password", { body: { old: String(f.get("old")), password: String(f.get("password")) } }));
      form.reset();
      client.invalidateQueries({ queryKey: ["places"] });
      say("Your password is changed. Everywhere else you are signed out.");
    } catch (err) {
      setTrouble(problemOf(err));
    }
  };
  return (
    <Part name="Password">
      <form onSubmit={submit} className="max-w-[340px]">
        <Line name="old" label="The one you have" type="password" autoComplete="current-password" trouble={trouble} />
        <NewPassword trouble={trouble} label="A new one" />
        {trouble && !trouble.field && (
          <p role="alert" className="mb-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
            {trouble.text}
          </p>
        )}
        <button type="submit" className="button">
          Change the password
        </button>
      </form>
    </Part>
  );
}

function Places() {
  const { data } = useQuery(places);
  const client = useQueryClient();
  const end = async (id?: string) => {
    await ask(api.DELETE("/api/session/places", { params: { query: id ? { id } : {} } })).catch((e: Failure) => say(e.message));
    client.invalidateQueries({ queryKey: ["places"] });
  };
  return (
    <Part name="Where you are signed in">
      <ul className="border-t border-rule">
        {data?.map((p) => (
          <li key={p.id} className="flex min-h-9 items-center gap-3 border-b border-rule py-1">
            <span className="min-w-0 flex-1">
              <span className="font-[600]">{browser(p.agent)}</span>
              {p.here && <span className="text-held"> this one</span>}
              <span className="block text-small text-ink-2">
                since {when(p.since)}, last seen {when(p.seen)}
              </span>
            </span>
            {!p.here && (
              <button type="button" className="button quiet slim" onClick={() => end(p.id)}>
                Sign out there
              </button>
            )}
          </li>
        ))}
      </ul>
      {(data?.length ?? 0) > 1 && (
        <button type="button" className="button mt-3" onClick={() => end()}>
          Sign out everywhere else
        </button>
      )}
    </Part>
  );
}

/** browser is how a browser's own long name reads to a person. */
export function browser(agent: string) {
  const what = /Edg\//.test(agent)
    ? "Edge"
    : /Firefox\//.test(agent)
      ? "Firefox"
      : /Chrome\//.test(agent)
        ? "Chrome or Chromium"
        : /Safari\//.test(agent)
          ? "Safari"
          : agent.split("/")[0] || "A browser";
  const on = /Android/.test(agent)
    ? "Android"
    : /iPhone|iPad/.test(agent)
      ? "iOS"
      : /Windows/.test(agent)
        ? "Windows"
        : /Mac OS X/.test(agent)
          ? "macOS"
          : /Linux/.test(agent)
            ? "Linux"
            : "";
  return on ? `${what} on ${on}` : what;
}

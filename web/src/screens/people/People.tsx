import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Dialog, DropdownMenu } from "radix-ui";
import { type FormEvent, useMemo, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { people, whoAmI } from "../../api/queries";
import { useActions } from "../../shell/actions";
import { when } from "../../shell/rows";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useTitle } from "../../shell/useTitle";
import { Line, type Said } from "../enter/Enter";

type Somebody = S["Somebody"];

/** People is everybody who may come in: their roles, whether they are here, and the way in. */
export function People() {
  const { data, error, refetch } = useQuery(people);
  const { data: me } = useQuery(whoAmI);
  const client = useQueryClient();
  const [adding, setAdding] = useState(false);
  const [link, setLink] = useState<S["Passage"]>();
  const [changing, setChanging] = useState<Somebody>();
  useTitle("People");
  useActions(useMemo(() => [{ name: "Add somebody", run: () => setAdding(true) }], []));
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const told = async (what: Promise<unknown>, done: string) => {
    try {
      await what;
      say(done);
    } catch (e) {
      say(e instanceof Failure ? e.message : "That did not work.");
    }
    client.invalidateQueries({ queryKey: ["people"] });
  };
  const here = data.people.filter((p) => p.sessions > 0).length;
  const path = (p: Somebody) => ({ params: { path: { person: p.id } } });
  return (
    <main id="main" className="flex h-full flex-col">
      <div className="flex items-center gap-3 border-b border-ink px-4 py-2">
        <h1 className="text-lead">People</h1>
        <span className="text-ink-2">
          {data.people.length} {data.people.length === 1 ? "person" : "people"}, {here} signed in
        </span>
        <button type="button" className="button solid ml-auto" onClick={() => setAdding(true)}>
          Add somebody
        </button>
      </div>
      <div className="scroller min-h-0 flex-1 overflow-auto">
        <div className="min-w-[740px] px-2 pt-1">
          <table className="list-table people" aria-label="People">
            <thead>
              <tr>
                <th scope="col">Name</th>
                <th scope="col">E-mail address</th>
                <th scope="col">Roles</th>
                <th scope="col">Last seen</th>
                <th scope="col">
                  <span className="sr-only">Look after</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data.people.map((p) => (
                <tr key={p.id}>
                  <th scope="row">
                    {p.name}
                    {p.id === me?.id && <span className="font-normal text-ink-2"> (you)</span>}
                  </th>
                  <td className="text-ink-2 [overflow-wrap:anywhere]">{p.email}</td>
                  <td className="text-ink-2">{p.roles.join(", ")}</td>
                  <td className="whitespace-nowrap">
                    <State p={p} />
                  </td>
                  <td className="num whitespace-nowrap">
                    <DropdownMenu.Root>
                      <DropdownMenu.Trigger className="button quiet slim" aria-label={`Look after ${p.name}`}>
                        Look after
                      </DropdownMenu.Trigger>
                      <DropdownMenu.Portal>
                        <DropdownMenu.Content align="end" className="float z-50 min-w-[230px] py-1">
                          <Item onSelect={() => setChanging(p)}>Name and roles…</Item>
                          <Item
                            onSelect={async () => {
                              try {
                                setLink(await ask(api.POST("/api/people/{person}/link", path(p))));
                              } catch (e) {
                                say(e instanceof Failure ? e.message : "That did not work.");
                              }
                            }}
                          >
                            {p.invited ? "Make a new invitation" : "Make a link for a new password"}
                          </Item>
                          {p.sessions > 0 && (
                            <Item
                              onSelect={() =>
                                told(ask(api.DELETE("/api/people/{person}/sessions", path(p))), `${p.name} is signed out`)
                              }
                            >
                              Sign out everywhere ({p.sessions})
                            </Item>
                          )}
                          <Item
                            onSelect={() =>
                              told(
                                ask(api.PATCH("/api/people/{person}", { ...path(p), body: { locked: !p.locked } })),
                                p.locked ? `${p.name} may come in again` : `${p.name} is locked out, everywhere`,
                              )
                            }
                          >
                            {p.locked ? "Let in again" : "Lock out"}
                          </Item>
                        </DropdownMenu.Content>
                      </DropdownMenu.Portal>
                    </DropdownMenu.Root>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {data.people.length === 1 && (
            <p className="max-w-[60ch] px-4 py-6 text-ink-2">
              You are alone here. Add the people who write, edit and read: each gets a link with which they choose a password.
            </p>
          )}
        </div>
      </div>
      <Asked
        title={changing ? `Name and roles of ${changing.name}` : "Add somebody"}
        open={adding || !!changing}
        roles={data.roles}
        person={changing}
        onClose={() => {
          setAdding(false);
          setChanging(undefined);
        }}
        onLink={setLink}
      />
      <Handed link={link} onClose={() => setLink(undefined)} />
    </main>
  );
}

function State({ p }: { p: Somebody }) {
  if (p.locked) return <span className="font-[650] text-clash">✕ locked out</span>;
  if (p.invited) return <span className="text-ink-2">invited, {when(p.since)}</span>;
  if (p.sessions > 0) return <span className="text-held">● {p.lastSeen ? when(p.lastSeen) : "here"}</span>;
  return <span className="text-ink-2">{p.lastSeen ? when(p.lastSeen) : "not seen yet"}</span>;
}

function Item({ children, onSelect }: { children: React.ReactNode; onSelect: () => void }) {
  return (
    <DropdownMenu.Item onSelect={onSelect} className="cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-marking-wash">
      {children}
    </DropdownMenu.Item>
  );
}

/** Asked adds somebody, or changes their name and roles. */
function Asked({
  title,
  open,
  roles,
  person,
  onClose,
  onLink,
}: {
  title: string;
  open: boolean;
  roles: S["RoleRow"][];
  person?: Somebody;
  onClose: () => void;
  onLink: (p: S["Passage"]) => void;
}) {
  const client = useQueryClient();
  const [trouble, setTrouble] = useState<Said>();
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const f = new FormData(e.currentTarget);
    const chosen = f.getAll("role").map(String);
    setTrouble(undefined);
    try {
      if (person)
        await ask(
          api.PATCH("/api/people/{person}", {
            params: { path: { person: person.id } },
            body: { name: String(f.get("name")), roles: chosen },
          }),
        );
      else
        onLink(
          await ask(
            api.POST("/api/people", { body: { name: String(f.get("name")), email: String(f.get("email")), roles: chosen } }),
          ),
        );
      client.invalidateQueries({ queryKey: ["people"] });
      onClose();
    } catch (err) {
      const b = err instanceof Failure ? (err.body as { field?: string } | undefined) : undefined;
      setTrouble({ field: b?.field, text: err instanceof Failure ? err.message : "That did not work." });
    }
  };
  return (
    <Dialog.Root
      open={open}
      onOpenChange={(v) => {
        if (!v) {
          setTrouble(undefined);
          onClose();
        }
      }}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">{title}</Dialog.Title>
          <form onSubmit={submit} className="mt-3">
            <Line name="name" label="Name" value={person?.name} trouble={trouble} />
            {!person && <Line name="email" label="E-mail address" type="email" trouble={trouble} />}
            <fieldset>
              <legend className="label">Roles</legend>
              {roles.map((r) => (
                <label key={r.name} className="flex min-h-7 items-center gap-2 border-t border-rule">
                  <input
                    type="checkbox"
                    name="role"
                    value={r.name}
                    defaultChecked={person ? person.roles.includes(r.name) : r.name === "reader"}
                  />
                  <span className="w-[130px] font-[600]">{r.name}</span>
                  <span className="text-ink-2">{r.may}</span>
                </label>
              ))}
            </fieldset>
            {trouble && trouble.field !== "name" && trouble.field !== "email" && (
              <p role="alert" className="mt-3 border-l-[3px] border-clash bg-clash-wash px-3 py-1.5">
                {trouble.text}
              </p>
            )}
            <div className="mt-4 flex justify-end gap-2">
              <Dialog.Close className="button quiet">Cancel</Dialog.Close>
              <button type="submit" className="button solid">
                {person ? "Keep" : "Add and make a link"}
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Handed shows a link once: it is kept nowhere. */
function Handed({ link, onClose }: { link?: S["Passage"]; onClose: () => void }) {
  const at = link ? `${window.location.origin}/enter#${link.secret}` : "";
  return (
    <Dialog.Root open={!!link} onOpenChange={(v) => !v && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog">
          <Dialog.Title className="text-head">
            {link?.kind === "reset" ? `A new password for ${link.name}` : `The way in for ${link?.name}`}
          </Dialog.Title>
          <Dialog.Description className="mt-1 text-ink-2">
            {link?.mailed
              ? `Sent to ${link.email}. It can be handed over by hand too.`
              : "Hand this link over. It is shown this once."}{" "}
            It works once, until{" "}
            {link && new Date(link.expires).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}.
          </Dialog.Description>
          <input
            readOnly
            value={at}
            aria-label="Link"
            className="field mt-3 font-mono text-small"
            onFocus={(e) => e.currentTarget.select()}
          />
          <div className="mt-4 flex justify-end gap-2">
            <button
              type="button"
              className="button"
              onClick={() =>
                navigator.clipboard
                  ?.writeText(at)
                  .then(() => say("The link is copied"))
                  .catch(() => say("Select the link and copy it by hand."))
              }
            >
              Copy
            </button>
            <Dialog.Close className="button solid">Done</Dialog.Close>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

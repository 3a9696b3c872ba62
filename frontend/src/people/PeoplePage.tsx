import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy, X } from "lucide-react";
import { useState, type FormEvent } from "react";

import { api, data, type Schemas } from "../api/client";
import { Page } from "../pieces/Page";
import { Button, SignButton } from "../ui/Button";
import { useNotices } from "../ui/notices";
import { dayOf, timeOf } from "../versions/words";
import { AtWork } from "./AtWork";
import { Field } from "./Card";
import { LimitsOf } from "./LimitsOf";
import { usePerson } from "./me";
import { usageWords, usedUp } from "./usage";

const PEOPLE = ["people"];
const RECORD = ["record"];
const ROLES = ["keeper", "maker", "guest"] as const;
type Role = (typeof ROLES)[number];

/** Who is in the workshop, who is invited, and what was done. */
export default function PeoplePage() {
  const people = useQuery({
    queryKey: PEOPLE,
    queryFn: ({ signal }) => data(api.GET("/api/people", { signal })),
    retry: false,
  });
  return (
    <Page title="People">
      <div className="mx-auto max-w-3xl space-y-10">
        {people.error && (
          <p role="alert" className="border-error bg-error-wash rounded-r-md border-l-4 px-4 py-2">
            {people.error.message}
          </p>
        )}
        {people.data && (
          <>
            <Everybody people={people.data.people} limits={people.data.limits} />
            <Invitations invitations={people.data.invitations} />
            <AtWork />
            <Record />
          </>
        )}
      </div>
    </Page>
  );
}

function RoleSelect({
  label,
  value,
  onChange,
}: {
  label: string;
  value: Role;
  onChange: (role: Role) => void;
}) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value as Role)}
      className="border-hair bg-sheet h-8 rounded-md border px-2"
    >
      {ROLES.map((role) => (
        <option key={role}>{role}</option>
      ))}
    </select>
  );
}

function Everybody({
  people,
  limits,
}: {
  people: readonly Schemas["KeptPerson"][];
  limits: Schemas["LimitsOut"];
}) {
  const queries = useQueryClient();
  const me = usePerson();
  const { refuse } = useNotices();
  const change = useMutation({
    mutationFn: ({ account, ...body }: { account: string } & Schemas["ChangePerson"]) =>
      data(api.PATCH("/api/people/{account}", { params: { path: { account } }, body })),
    onSuccess: (next) => {
      queries.setQueryData(PEOPLE, next);
      void queries.invalidateQueries({ queryKey: RECORD });
    },
    onError: (error) => refuse(error.message),
  });
  const link = useMutation({
    mutationFn: (account: string) =>
      data(api.POST("/api/people/{account}/password-link", { params: { path: { account } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: RECORD }),
    onError: (error) => refuse(error.message),
  });
  const whose = people.find((person) => person.id === link.variables);
  return (
    <section aria-label="Everybody">
      <h2 className="border-rule mb-1 border-b pb-1.5 text-lg">Everybody</h2>
      <ul>
        {people.map((person) => (
          <li key={person.id} className="border-rule flex items-center gap-3 border-b py-2">
            <span className={`min-w-0 grow ${person.closed ? "text-soft line-through" : ""}`}>
              {person.title}
              <span className="text-soft ml-2 text-[13px]">{person.name}</span>
              {person.two_factors && <span className="text-soft ml-2 text-xs">with a second factor</span>}
              <span className="text-soft block text-xs">
                {usageWords(person.usage)}
                {usedUp(person.usage) && <span className="text-error ml-2">{usedUp(person.usage)}</span>}
              </span>
            </span>
            <RoleSelect
              label={`Role of ${person.title}`}
              value={person.role}
              onChange={(role) => change.mutate({ account: person.id, role })}
            />
            <LimitsOf
              person={person}
              everybody={limits}
              onChange={(own) => change.mutate({ account: person.id, limits: own })}
            />
            <Button
              kind="quiet"
              disabled={person.id === me?.id || person.closed || link.isPending}
              onClick={() => link.mutate(person.id)}
            >
              New password
            </Button>
            <Button
              className="w-28"
              disabled={person.id === me?.id}
              onClick={() => change.mutate({ account: person.id, closed: !person.closed })}
            >
              {person.closed ? "Let in again" : "Shut out"}
            </Button>
          </li>
        ))}
      </ul>
      {link.data && (
        <Link
          token={link.data.token}
          about={`${whose?.title ?? "They"} can set a new password by it, once, within a week; a second factor is set up anew.`}
        />
      )}
      <p className="text-soft mt-2 text-xs">
        Keepers look after people, room and records. Makers make pieces. Guests see what is shown to them.
        Somebody who is shut out keeps their pieces, and can do nothing until let in again.
      </p>
    </section>
  );
}

/** A link that is shown once, to be sent by hand. */
function Link({ token, about }: { token: string; about: string }) {
  const { say } = useNotices();
  const link = `${window.location.origin}/invitation/${token}`;
  return (
    <>
      <div role="status" className="bg-act-wash mt-3 flex items-center gap-3 rounded-md px-3 py-2">
        <code className="min-w-0 grow truncate text-[13px]">{link}</code>
        <SignButton
          label="Copy the link"
          onClick={() => {
            void navigator.clipboard.writeText(link).then(() => say("The link is copied."));
          }}
        >
          <Copy size={15} />
        </SignButton>
      </div>
      <p className="text-soft mt-1 text-xs">{about}</p>
    </>
  );
}

function Invitations({ invitations }: { invitations: readonly Schemas["InvitationOut"][] }) {
  const queries = useQueryClient();
  const { refuse } = useNotices();
  const [title, setTitle] = useState("");
  const [role, setRole] = useState<Role>("maker");
  const failed = (error: Error) => refuse(error.message);
  const invite = useMutation({
    mutationFn: () => data(api.POST("/api/people/invitations", { body: { role, title } })),
    onSuccess: () => {
      setTitle("");
      void queries.invalidateQueries({ queryKey: RECORD });
      return queries.invalidateQueries({ queryKey: PEOPLE });
    },
    onError: failed,
  });
  const withdraw = useMutation({
    mutationFn: (invitation: string) =>
      data(api.DELETE("/api/people/invitations/{invitation}", { params: { path: { invitation } } })),
    onSuccess: (next) => {
      queries.setQueryData(PEOPLE, next);
      void queries.invalidateQueries({ queryKey: RECORD });
    },
    onError: failed,
  });
  const send = (event: FormEvent) => {
    event.preventDefault();
    invite.mutate();
  };
  return (
    <section aria-label="Invitations">
      <h2 className="border-rule mb-3 border-b pb-1.5 text-lg">Invite somebody</h2>
      <form onSubmit={send} className="flex items-end gap-3">
        <div className="grow [&>div]:mb-0">
          <Field label="Whom it is for" value={title} onChange={setTitle} autoComplete="off" />
        </div>
        <RoleSelect label="As what" value={role} onChange={setRole} />
        <Button type="submit" kind="act" disabled={!title.trim() || invite.isPending}>
          Make a link
        </Button>
      </form>
      {invite.data && (
        <Link
          token={invite.data.token}
          about="Send it yourself. It works once, for a week, and is not shown again."
        />
      )}
      {invitations.length > 0 && (
        <ul aria-label="Not used yet" className="mt-3">
          {invitations.map((invitation) => (
            <li key={invitation.id} className="border-rule flex items-center border-b py-1.5">
              <span className="grow">
                {invitation.title}
                <span className="text-soft ml-2 text-[13px]">
                  {invitation.name ? "new password" : invitation.role}, until {dayOf(invitation.ends)}
                </span>
              </span>
              <SignButton
                label={`Withdraw the invitation of ${invitation.title}`}
                onClick={() => withdraw.mutate(invitation.id)}
              >
                <X size={15} />
              </SignButton>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** What was done by whom: it can be read, and nobody changes it. */
function Record() {
  const record = useInfiniteQuery({
    queryKey: RECORD,
    initialPageParam: null as number | null,
    queryFn: ({ pageParam, signal }) =>
      data(
        api.GET("/api/record", {
          params: { query: pageParam === null ? {} : { before: pageParam } },
          signal,
        }),
      ),
    getNextPageParam: (page) => (page.happenings.length ? page.happenings.at(-1)?.id : undefined),
  });
  const rows = record.data?.pages.flatMap((page) => page.happenings) ?? [];
  const total = record.data?.pages[0]?.total ?? 0;
  return (
    <section aria-label="Record">
      <h2 className="border-rule mb-1 border-b pb-1.5 text-lg">What was done</h2>
      <table className="w-full text-[13px]">
        <thead className="sr-only">
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>What</th>
            <th>From where</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.id} className="border-rule border-b align-top">
              <td className="text-soft py-1.5 pr-4 whitespace-nowrap tabular-nums">
                {dayOf(row.at)}, {timeOf(row.at)}
              </td>
              <td className="py-1.5 pr-4 whitespace-nowrap">{row.who ?? "somebody"}</td>
              <td className="w-full py-1.5 pr-4">
                {row.what}
                {row.about && <span className="text-soft">, {row.about}</span>}
              </td>
              <td className="text-soft py-1.5">{row.address}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length < total && (
        <Button className="mt-3" onClick={() => void record.fetchNextPage()}>
          Older
        </Button>
      )}
    </section>
  );
}

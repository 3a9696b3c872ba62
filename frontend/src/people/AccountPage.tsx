import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent, type ReactNode } from "react";
import { useNavigate } from "react-router";

import { api, data, Refused } from "../api/client";
import { Page } from "../pieces/Page";
import { Button } from "../ui/Button";
import { TextField } from "../ui/fields";
import { useNotices } from "../ui/notices";
import { dayOf, timeOf } from "../versions/words";
import { Field } from "./Card";
import { browserIn } from "./browserIn";
import { useMe, usePerson } from "./me";
import { usageWords, usedUp } from "./usage";

/** One's own account: name, password, second factor, and where one is signed in. */
export default function AccountPage() {
  const person = usePerson();
  const know = useMe((s) => s.know);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { refuse } = useNotices();
  const rename = useMutation({
    mutationFn: (title: string) => data(api.PUT("/api/me/title", { body: { title } })),
    onSuccess: know,
    onError: (error) => refuse(error.message),
  });
  const leave = useMutation({
    mutationFn: () => data(api.POST("/api/sign-out")),
    onSuccess: async () => {
      queries.clear();
      know(await data(api.GET("/api/me")));
      return navigate("/");
    },
    onError: (error) => refuse(error.message),
  });
  if (!person)
    return (
      <Page title="Account">
        <p className="text-soft">Nobody signs in here: this Drelo is yours alone.</p>
      </Page>
    );
  return (
    <Page title="Account">
      <div className="mx-auto max-w-xl space-y-9">
        <Part title={person.title} side={<Button onClick={() => leave.mutate()}>Sign out</Button>}>
          <p className="text-soft mb-2">
            You sign in as <b className="text-ink">{person.name}</b>, a {person.role} of this workshop.
          </p>
          <TextField
            label="What others see"
            value={person.title}
            maxLength={120}
            onCommit={(title) => title && rename.mutate(title)}
          />
        </Part>
        <NewPassword />
        <InUse />
        <Factor asked={person.two_factors} />
        <Browsers />
      </div>
    </Page>
  );
}

function Part({ title, side, children }: { title: string; side?: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <div className="border-rule mb-3 flex items-center justify-between border-b pb-1.5">
        <h2 className="text-lg">{title}</h2>
        {side}
      </div>
      {children}
    </section>
  );
}

const fieldOf = (error: Error | null, field: string) =>
  error instanceof Refused && error.field === field ? error.message : undefined;

/** How much of the workshop one uses, and may use. */
function InUse() {
  const usage = useQuery({
    queryKey: ["usage"],
    queryFn: ({ signal }) => data(api.GET("/api/me/usage", { signal })),
  });
  if (!usage.data) return null;
  const { limits } = usage.data;
  return (
    <Part title="What you use">
      <p>
        {usageWords(usage.data)}.
        {usedUp(usage.data) && <span className="text-error ml-2">{usedUp(usage.data)}.</span>}
      </p>
      <p className="text-soft mt-1 text-xs">
        You have room for {limits.pieces} {limits.pieces === 1 ? "piece" : "pieces"} and {limits.megabytes}{" "}
        MB, and {limits.minutes} min of computing a day.
      </p>
    </Part>
  );
}

function NewPassword() {
  const { say } = useNotices();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useMutation({
    mutationFn: () => data(api.PUT("/api/me/password", { body: { old, new: fresh } })),
    onSuccess: () => {
      setOld("");
      setFresh("");
      say("The password is changed. Every other browser is signed out.");
    },
  });
  const send = (event: FormEvent) => {
    event.preventDefault();
    change.mutate();
  };
  return (
    <Part title="Password">
      <form onSubmit={send} className="grid grid-cols-2 gap-x-4">
        <Field
          label="Password now"
          type="password"
          value={old}
          onChange={setOld}
          autoComplete="current-password"
          wrong={fieldOf(change.error, "old")}
        />
        <Field
          label="New password"
          type="password"
          value={fresh}
          onChange={setFresh}
          autoComplete="new-password"
          hint="12 characters or more"
          wrong={fieldOf(change.error, "password")}
        />
        <Button type="submit" className="justify-self-start" disabled={!old || !fresh || change.isPending}>
          Change the password
        </Button>
      </form>
    </Part>
  );
}

/** A code from a phone beside the password. */
function Factor({ asked }: { asked: boolean }) {
  const know = useMe((s) => s.know);
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const begin = useMutation({
    mutationFn: () => data(api.POST("/api/me/factor", { body: { password } })),
  });
  const take = useMutation({
    mutationFn: () =>
      data(api.PUT("/api/me/factor", { body: { password, secret: begin.data?.secret ?? "", code } })),
    onSuccess: async () => know(await data(api.GET("/api/me"))),
  });
  const drop = useMutation({
    mutationFn: () => data(api.POST("/api/me/factor/drop", { body: { password } })),
    onSuccess: (me) => {
      setPassword("");
      begin.reset();
      take.reset();
      know(me);
    },
  });
  if (take.data)
    return (
      <Part title="Second factor">
        <p className="mb-2">
          From now on you need a code to sign in. Keep these spare codes somewhere safe: each works once, for
          when your phone is not at hand.
        </p>
        <ul aria-label="Spare codes" className="grid grid-cols-4 gap-x-6 gap-y-1 font-mono text-[15px]">
          {take.data.codes.map((spare) => (
            <li key={spare}>{spare}</li>
          ))}
        </ul>
      </Part>
    );
  return (
    <Part title="Second factor">
      <p className="text-soft mb-3">
        {asked
          ? "You also need a code from your phone to sign in."
          : "Add a code from an app on your phone, and nobody can sign in with your password alone."}
      </p>
      {begin.data && !asked ? (
        <form
          className="flex gap-6"
          onSubmit={(event) => {
            event.preventDefault();
            take.mutate();
          }}
        >
          <img
            alt="The picture to scan with the app"
            src={`data:image/svg+xml;utf8,${encodeURIComponent(begin.data.picture)}`}
            className="size-40 rounded bg-white"
          />
          <div className="grow">
            <p className="mb-2">
              Scan it, or type <code className="text-[13px] break-all">{begin.data.secret}</code>.
            </p>
            <Field
              label="Code that the app shows"
              value={code}
              onChange={setCode}
              autoComplete="one-time-code"
              inputMode="numeric"
              wrong={fieldOf(take.error, "code")}
            />
            <Button type="submit" kind="act" disabled={!code || take.isPending}>
              Turn it on
            </Button>
          </div>
        </form>
      ) : (
        <form
          className="grid grid-cols-2 items-start gap-x-4"
          onSubmit={(event) => {
            event.preventDefault();
            if (asked) drop.mutate();
            else begin.mutate();
          }}
        >
          <Field
            label="Your password, to be sure"
            type="password"
            value={password}
            onChange={setPassword}
            autoComplete="current-password"
            wrong={fieldOf(begin.error ?? drop.error, "old")}
          />
          <Button type="submit" className="mt-7 justify-self-start" disabled={!password}>
            {asked ? "Turn it off" : "Set it up"}
          </Button>
        </form>
      )}
    </Part>
  );
}

const BROWSERS = ["browsers"];

function Browsers() {
  const queries = useQueryClient();
  const { refuse } = useNotices();
  const browsers = useQuery({
    queryKey: BROWSERS,
    queryFn: ({ signal }) => data(api.GET("/api/me/browsers", { signal })),
  });
  const end = useMutation({
    mutationFn: (browser: string | null) =>
      browser === null
        ? data(api.DELETE("/api/me/browsers"))
        : data(api.DELETE("/api/me/browsers/{browser}", { params: { path: { browser } } })),
    onSuccess: (left) => queries.setQueryData(BROWSERS, left),
    onError: (error) => refuse(error.message),
  });
  const list = browsers.data?.browsers ?? [];
  return (
    <Part
      title="Signed in"
      side={list.length > 1 && <Button onClick={() => end.mutate(null)}>Sign all others out</Button>}
    >
      <ul>
        {list.map((browser) => (
          <li key={browser.id} className="border-rule flex items-center gap-4 border-b py-2">
            <span className="grow">
              {browserIn(browser.agent)}
              {browser.here && <b className="text-act"> · this one</b>}
              <span className="text-soft block text-xs">
                {browser.address}, last used {dayOf(browser.seen).toLowerCase()} at {timeOf(browser.seen)}
              </span>
            </span>
            {!browser.here && (
              <Button kind="quiet" onClick={() => end.mutate(browser.id)}>
                Sign out
              </Button>
            )}
          </li>
        ))}
      </ul>
    </Part>
  );
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";

import { api, data } from "../api/client";
import { Button } from "../ui/Button";
import { Card, Field } from "./Card";
import { useMe } from "./me";

/** Name and password, and a code where a second factor is asked for. */
export function SignInPage() {
  const queries = useQueryClient();
  const know = useMe((s) => s.know);
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [coded, setCoded] = useState(false);
  const signIn = useMutation({
    mutationFn: () => data(api.POST("/api/sign-in", { body: { name, password, code: coded ? code : null } })),
    onSuccess: ({ me, code_wanted }) => {
      if (code_wanted) setCoded(true);
      if (!me) return;
      queries.clear();
      know(me);
    },
  });
  const send = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate();
  };
  return (
    <Card title="Sign in">
      <form onSubmit={send}>
        {coded ? (
          <Field
            label="Code"
            value={code}
            onChange={setCode}
            autoComplete="one-time-code"
            inputMode="numeric"
            hint="From the app on your phone, or one of your spare codes."
            autoFocus
          />
        ) : (
          <>
            <Field label="Name" value={name} onChange={setName} autoComplete="username" autoFocus />
            <Field
              label="Password"
              type="password"
              value={password}
              onChange={setPassword}
              autoComplete="current-password"
            />
          </>
        )}
        {signIn.error && (
          <p role="alert" className="text-error mb-3">
            {signIn.error.message}
          </p>
        )}
        <Button type="submit" kind="act" className="w-full" disabled={signIn.isPending}>
          Sign in
        </Button>
        {coded && (
          <Button
            className="mt-2 w-full"
            onClick={() => {
              setCoded(false);
              setCode("");
              signIn.reset();
            }}
          >
            Back
          </Button>
        )}
      </form>
      <p className="text-soft mt-4 text-xs">
        No account yet? A keeper of this workshop sends you a link, and another one where your password is
        forgotten.
      </p>
    </Card>
  );
}

import { useMutation, useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { useNavigate } from "react-router";

import { api, data, Refused } from "../api/client";
import { Button } from "../ui/Button";
import { Card, Field } from "./Card";
import { useMe } from "./me";

const MAY = {
  keeper: "You will look after the workshop: its people, storage and records.",
  maker: "You can make your own pieces and share them with anyone you like.",
  guest: "You can look at whatever others share with you.",
} as const;

/** An account by a link that works once. */
export function InvitationPage({ token }: { token: string }) {
  const navigate = useNavigate();
  const know = useMe((s) => s.know);
  const [name, setName] = useState("");
  const [title, setTitle] = useState<string | null>(null);
  const [password, setPassword] = useState("");
  const params = { path: { token } };
  const invitation = useQuery({
    queryKey: ["invitation", token],
    queryFn: ({ signal }) => data(api.GET("/api/invitations/{token}", { params, signal })),
    retry: false,
  });
  const called = title ?? invitation.data?.title ?? "";
  const known = invitation.data?.name;
  const accept = useMutation({
    mutationFn: () =>
      known
        ? data(api.PUT("/api/invitations/{token}/password", { params, body: { password } }))
        : data(api.POST("/api/invitations/{token}", { params, body: { name, title: called, password } })),
    onSuccess: (me) => {
      know(me);
      return navigate("/");
    },
  });
  const wrong = (field: string) =>
    accept.error instanceof Refused && accept.error.field === field ? accept.error.message : undefined;
  const send = (event: FormEvent) => {
    event.preventDefault();
    accept.mutate();
  };
  if (invitation.error)
    return (
      <Card title="This link does not work">
        <p>{invitation.error.message}</p>
      </Card>
    );
  if (!invitation.data) return null;
  return (
    <Card title={known ? "New password" : "Welcome"}>
      <p className="text-soft mb-4">
        {known ? `For ${invitation.data.title}, who signs in as ${known}.` : MAY[invitation.data.role]}
      </p>
      <form onSubmit={send}>
        {!known && (
          <>
            <Field
              label="What others see"
              value={called}
              onChange={setTitle}
              autoComplete="name"
              wrong={wrong("title")}
              autoFocus
            />
            <Field
              label="Name to sign in with"
              value={name}
              onChange={setName}
              autoComplete="username"
              hint="Small letters, digits, dots and dashes."
              wrong={wrong("name")}
            />
          </>
        )}
        <Field
          label="Password"
          type="password"
          value={password}
          onChange={setPassword}
          autoComplete="new-password"
          hint="12 characters or more. A few words in a row are easy to remember."
          wrong={wrong("password")}
        />
        {accept.error && !wrong("title") && !wrong("name") && !wrong("password") && (
          <p role="alert" className="text-error mb-3">
            {accept.error.message}
          </p>
        )}
        <Button type="submit" kind="act" className="w-full" disabled={accept.isPending}>
          {known ? "Set password" : "Create account"}
        </Button>
      </form>
    </Card>
  );
}

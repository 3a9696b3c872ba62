import { lazy, Suspense, useEffect, type ReactNode } from "react";
import { useLocation } from "react-router";

import { patiently } from "../api/loading";
import { api, data } from "../api/client";
import { InvitationPage } from "./InvitationPage";
import { useMe, wasShared } from "./me";
import { SignInPage } from "./SignInPage";

const ShownPage = lazy(patiently(() => import("./ShownPage")));
const INVITATION = /^\/invitation\/([\w-]+)$/;
const SHOWN = /^\/shown\/([\w-]+)$/;

/** In a shared workshop, who is not signed in signs in first; one maker alone does not notice it. */
export function Gate({ children }: { children: ReactNode }) {
  const { me, know } = useMe();
  const { pathname } = useLocation();
  const token = INVITATION.exec(pathname)?.[1];
  const shown = SHOWN.exec(pathname)?.[1];
  useEffect(() => {
    data(api.GET("/api/me")).then(know, () => undefined);
  }, [know]);
  if (shown)
    return (
      <Suspense>
        <ShownPage token={shown} />
      </Suspense>
    );
  if (!me && (wasShared() || token)) return null;
  if (me?.shared && token && !me.person) return <InvitationPage token={token} />;
  if (me?.shared && !me.person) return <SignInPage />;
  return children;
}

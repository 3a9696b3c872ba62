import { create } from "zustand";

import { signWith, type Schemas } from "../api/client";
import { recalled, remember } from "../bench/remembered";

export type Me = Schemas["Me"];
export type Person = Schemas["PersonOut"];

type State = {
  /** Who is signed in; null until it is known. */
  me: Me | null;
  know: (me: Me) => void;
  /** The server knows this browser no more. */
  lost: () => void;
};

/** Who works here. For one maker alone it says that there are no people. */
export const useMe = create<State>((set, get) => ({
  me: null,
  know: (me) => {
    remember("shared", me.shared);
    if (me.shared) signWith(me.token, get().lost);
    set({ me });
  },
  lost: () => {
    const { me } = get();
    if (!me?.person) return;
    set({ me: { shared: true, person: null, token: me.token } });
  },
}));

/** Whether this was a workshop of several people when it was last asked: then the page waits until it knows who is there. */
export const wasShared = (): boolean => recalled("shared", false);

export const usePerson = (): Person | null => useMe((s) => s.me?.person ?? null);

/** Whether what makers do is offered: it is to everybody but guests. */
export const useMakes = (): boolean => useMe((s) => s.me?.person?.role !== "guest");

/** Whether what keepers do is offered: one maker alone keeps everything. */
export const useKeeps = (): boolean =>
  useMe((s) => s.me === null || !s.me.shared || s.me.person?.role === "keeper");

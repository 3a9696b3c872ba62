import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";

import { api, data, Refused, type Schemas } from "../api/client";
import { useNotices } from "../ui/notices";

export type PlanOut = Schemas["PlanOut"];
export type Plan = PlanOut["plan"];
export type Lying = Plan["places"][number];
type Lay = Schemas["PutPlan"]["lay"];
type Change = { change: (plan: Plan) => Plan; lay: Lay };

const keyOf = (id: string) => ["bed-plan", id];

/**
 * A bed plan and how it is changed. A change shows at once; changes go to the server one after the other, those that
 * come meanwhile as one, and what the server makes of them takes their place.
 */
export function usePlan(id: string) {
  const queries = useQueryClient();
  const { refuse } = useNotices();
  const waiting = useRef<Change[]>([]);
  const isSending = useRef(false);
  const [shown, setShown] = useState<Plan | null>(null);
  const [isBusy, setIsBusy] = useState(false);
  const query = useQuery({
    queryKey: keyOf(id),
    queryFn: ({ signal }) => data(api.GET("/api/beds/{plan}", { params: { path: { plan: id } }, signal })),
    retry: (count, error) => !(error instanceof Refused && error.status === 404) && count < 1,
  });

  const send = useCallback(async () => {
    if (isSending.current) return;
    isSending.current = true;
    setIsBusy(true);
    while (waiting.current.length) {
      const all = waiting.current;
      waiting.current = [];
      const now = queries.getQueryData<PlanOut>(keyOf(id));
      if (!now) break;
      const plan = all.reduce((before, { change }) => change(before), now.plan);
      const lay = all.reduce<Lay>((most, { lay }) => (rank(lay) > rank(most) ? lay : most), "nothing");
      try {
        const after = await data(
          api.PUT("/api/beds/{plan}", {
            params: { path: { plan: id } },
            body: { version: now.version, plan, lay },
          }),
        );
        queries.setQueryData(keyOf(id), after);
        void queries.invalidateQueries({ queryKey: ["bed-plans"] });
      } catch (error) {
        refuse(error instanceof Error ? error.message : "The change was not saved.");
        waiting.current = [];
        await queries.invalidateQueries({ queryKey: keyOf(id) });
      }
      if (!waiting.current.length) setShown(null);
    }
    isSending.current = false;
    setIsBusy(false);
  }, [id, queries, refuse]);

  const change = useCallback(
    (how: (plan: Plan) => Plan, lay: Lay = "nothing") => {
      waiting.current.push({ change: how, lay });
      setShown((before) => {
        const from = before ?? queries.getQueryData<PlanOut>(keyOf(id))?.plan;
        return from ? how(from) : before;
      });
      void send();
    },
    [id, queries, send],
  );
  return { ...query, plan: shown ?? query.data?.plan, change, isBusy };
}

const rank = (lay: Lay) => ["nothing", "new", "unlocked"].indexOf(lay ?? "nothing");

/** The plan with one of its places changed. */
export const withPlace =
  (at: number, change: Partial<Lying>) =>
  (plan: Plan): Plan => ({
    ...plan,
    places: plan.places.map((place, i) => (i === at ? { ...place, ...change } : place)),
  });

/** The plan with other pieces or numbers of copies; the places of those that stay go along. */
export function withThings(plan: Plan, things: Plan["things"]): Plan {
  const places = plan.places.flatMap((place) => {
    const piece = plan.things[place.thing]?.piece;
    const thing = things.findIndex((one) => one.piece === piece);
    return thing >= 0 && place.copy_number < (things[thing]?.copies ?? 1) ? [{ ...place, thing }] : [];
  });
  return { ...plan, things, places };
}

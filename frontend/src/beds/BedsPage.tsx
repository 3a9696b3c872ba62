import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { Link } from "react-router";

import { api, data, type Schemas } from "../api/client";
import { Page } from "../pieces/Page";
import { SignButton } from "../ui/Button";
import { useNotices } from "../ui/notices";

const PLANS = ["bed-plans"];
const plural = (count: number, one: string, many = `${one}s`) => `${count} ${count === 1 ? one : many}`;

/** Every bed plan of the workshop. */
export default function BedsPage() {
  const queries = useQueryClient();
  const { say, refuse } = useNotices();
  const plans = useQuery({
    queryKey: PLANS,
    queryFn: ({ signal }) => data(api.GET("/api/beds", { signal })),
  });
  const restore = useMutation({
    mutationFn: (plan: string) => data(api.POST("/api/beds/{plan}/restore", { params: { path: { plan } } })),
    onSuccess: (list) => queries.setQueryData(PLANS, list),
    onError: (error) => refuse(error.message),
  });
  const drop = useMutation({
    mutationFn: (plan: Schemas["PlanCard"]) =>
      data(api.DELETE("/api/beds/{plan}", { params: { path: { plan: plan.id } } })),
    onSuccess: (list, plan) => {
      queries.setQueryData(PLANS, list);
      say(`“${plan.name}” is deleted. Its pieces stay.`, {
        name: "Undo",
        run: () => restore.mutate(plan.id),
      });
    },
    onError: (error) => refuse(error.message),
  });
  const list = plans.data?.plans;
  return (
    <Page title="Beds">
      <div className="mx-auto max-w-2xl">
        {plans.isError && (
          <p role="alert" className="border-error bg-error-wash rounded-r-md border-l-4 px-4 py-2">
            {plans.error.message}
          </p>
        )}
        {list?.length === 0 && (
          <section className="mt-[14vh] text-center">
            <h2 className="mb-2 text-2xl">Nothing on a bed yet</h2>
            <p className="text-soft mb-5 text-base">
              Pick some of your pieces and choose “Put on a bed”. They are packed on as few beds as possible.
            </p>
            <Link to="/" className="text-act font-semibold hover:underline">
              To the pieces
            </Link>
          </section>
        )}
        {list && list.length > 0 && (
          <ul aria-label="Beds" className="border-rule border-t">
            {list.map((plan) => (
              <li key={plan.id} className="border-rule flex items-center gap-4 border-b py-2.5">
                <Link to={`/beds/${plan.id}`} className="hover:text-act min-w-0 grow truncate text-[17px]">
                  {plan.name}
                </Link>
                <span className="text-soft text-[13px]">
                  {plural(plan.pieces, "piece")}, {plural(plan.copies, "copy", "copies")} on{" "}
                  {plural(plan.beds, "bed")}
                </span>
                <SignButton label={`Delete ${plan.name}`} onClick={() => drop.mutate(plan)}>
                  <Trash2 size={15} />
                </SignButton>
              </li>
            ))}
          </ul>
        )}
      </div>
    </Page>
  );
}
